import type { Texts } from './texts.js';

/** The texts that users read, in German. */
export const german: Texts = {
  language: 'de',
  page: {
    beforePrompt: 'Drücken Sie den Knopf, und wählen Sie „Zulassen“, wenn Sie gefragt werden.',
    close: 'Schließen',
  },
  consent: {
    title: 'Ihr Standort',
    goOn: 'Weiter',
    notNow: 'Jetzt nicht',
    more: 'Mehr dazu',
    close: 'Schließen',
    askAgain: 'Noch einmal fragen',
    openSettings: 'Einstellungen öffnen',
    turnOn: 'Einschalten',
  },
  failures: {
    unsupported: {
      happened: 'Dieses Gerät kann nicht feststellen, wo es ist.',
      help: 'Öffnen Sie die Seite auf einem Telefon, oder geben Sie den Ort ein.',
    },
    insecure: {
      happened: 'Diese Seite darf nicht nach Ihrem Standort fragen, weil ihre Verbindung nicht sicher ist.',
      help: 'Öffnen Sie die Seite unter ihrer https-Adresse.',
    },
    forbidden: {
      happened: 'Hier darf diese Seite nicht nach Ihrem Standort fragen.',
      help: 'Öffnen Sie die Seite für sich, außerhalb der Seite, die sie einrahmt.',
    },
    undeclared: {
      happened: 'Dieser App fehlt die Erklärung, ohne die sie nicht nach Ihrem Standort fragen kann.',
      help: 'Sagen Sie es denen, die die App gemacht haben.',
    },
    'switched-off': {
      happened: 'Die Standortbestimmung ist auf diesem Gerät ausgeschaltet.',
      help: 'Schalten Sie sie in den Einstellungen des Geräts ein, und versuchen Sie es noch einmal.',
    },
    refused: {
      happened: 'Sie haben dieser Seite Ihren Standort nicht mitgeteilt.',
      help: 'Drücken Sie den Knopf noch einmal, und wählen Sie „Zulassen“.',
    },
    barred: {
      happened: 'Diese Seite darf Ihren Standort nicht wissen.',
      help:
        'Lassen Sie den Standort in den Einstellungen der Seite neben der Adresse zu, und versuchen Sie ' +
        'es noch einmal.',
    },
    declined: {
      happened: 'Dann jetzt nicht. Das Gerät wurde nach nichts gefragt.',
      help: 'Drücken Sie den Knopf, wann immer Sie möchten.',
    },
    withdrawn: {
      happened: 'Die Erlaubnis, Ihren Standort zu wissen, wurde zurückgenommen.',
      help: 'Lassen Sie den Standort in den Einstellungen der Seite neben der Adresse wieder zu.',
    },
    'approximate-only': {
      happened: 'Diese Seite erfährt nur ungefähr, wo Sie sind.',
      help: 'Lassen Sie in den Einstellungen den genauen Standort zu, oder gehen Sie mit dem ungefähren weiter.',
    },
    'no-signal': {
      happened: 'Das Gerät findet seinen Standort gerade nicht.',
      help: 'Gehen Sie unter freien Himmel, warten Sie einen Augenblick, und versuchen Sie es noch einmal.',
    },
    'timed-out': {
      happened: 'Das Gerät hat seinen Standort nicht rechtzeitig gefunden.',
      help: 'Versuchen Sie es noch einmal, am besten unter freiem Himmel.',
    },
    unknown: {
      happened: 'Beim Bestimmen Ihres Standorts ist etwas schiefgegangen.',
      help: 'Versuchen Sie es noch einmal; bleibt es dabei, sagen Sie es denen, die die App gemacht haben.',
    },
  },
  ways: {
    turns: {
      start: { plain: 'Losgehen oder losfahren', onto: 'Los: {lane}' },
      straight: { plain: 'Geradeaus', onto: 'Geradeaus: {lane}' },
      'slight-left': { plain: 'Links halten', onto: 'Links halten: {lane}' },
      left: { plain: 'Links abbiegen', onto: 'Links abbiegen: {lane}' },
      'sharp-left': { plain: 'Scharf links abbiegen', onto: 'Scharf links abbiegen: {lane}' },
      'slight-right': { plain: 'Rechts halten', onto: 'Rechts halten: {lane}' },
      right: { plain: 'Rechts abbiegen', onto: 'Rechts abbiegen: {lane}' },
      'sharp-right': { plain: 'Scharf rechts abbiegen', onto: 'Scharf rechts abbiegen: {lane}' },
      back: { plain: 'Umkehren', onto: 'Umkehren: {lane}' },
      via: { plain: 'Am Zwischenziel vorbei', onto: 'Am Zwischenziel vorbei, weiter: {lane}' },
      arrive: { plain: 'Am Ziel', onto: 'Am Ziel,: {lane}' },
    },
    kinds: {
      road: 'Landstraße',
      street: 'Straße',
      lane: 'Sträßchen',
      track: 'Feldweg',
      path: 'Pfad',
      steps: 'Treppe',
    },
    step: '{text}, {length}',
    noWay: 'Dorthin führt kein Weg. Der nächste erreichbare Ort ist {length} davon entfernt.',
    offNetwork: 'In der Nähe ist kein Weg. Der nächste ist {length} entfernt.',
  },
};
