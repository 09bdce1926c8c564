import type { NoFixKind } from '../core/fix/no-fix-kinds.js';
import { NO_FIX_TEXTS } from '../core/fix/no-fix-texts.js';

/** What the consent card says of itself, and of each failure: what happened, and what helps. */
export interface ConsentTexts {
  readonly title: string;
  readonly goOn: string;
  readonly notNow: string;
  readonly more: string;
  readonly close: string;
  /** On the button that does what helps. */
  readonly acts: { readonly ask: string; readonly settings: string; readonly turnOn: string };
  readonly failures: Readonly<Record<NoFixKind, readonly [happened: string, helps: string]>>;
}

const english: ConsentTexts = {
  title: 'Your position',
  goOn: 'Go on',
  notNow: 'Not now',
  more: 'More about this',
  close: 'Close',
  acts: { ask: 'Ask again', settings: 'Open the settings', turnOn: 'Turn it on' },
  failures: Object.fromEntries(
    Object.entries(NO_FIX_TEXTS).map(([kind, { user, help }]) => [kind, [user, help] as const]),
  ) as ConsentTexts['failures'],
};

const german: ConsentTexts = {
  title: 'Ihr Standort',
  goOn: 'Weiter',
  notNow: 'Jetzt nicht',
  more: 'Mehr dazu',
  close: 'Schließen',
  acts: { ask: 'Noch einmal fragen', settings: 'Einstellungen öffnen', turnOn: 'Einschalten' },
  failures: {
    unsupported: ['Dieses Gerät kann nicht feststellen, wo es ist.', 'Öffnen Sie die Seite auf einem Telefon, oder geben Sie den Ort ein.'],
    insecure: ['Diese Seite darf nicht nach Ihrem Standort fragen, weil ihre Verbindung nicht sicher ist.', 'Öffnen Sie die Seite unter ihrer https-Adresse.'],
    forbidden: ['Hier darf diese Seite nicht nach Ihrem Standort fragen.', 'Öffnen Sie die Seite für sich, außerhalb der Seite, die sie einrahmt.'],
    undeclared: ['Dieser App fehlt die Erklärung, ohne die sie nicht nach Ihrem Standort fragen kann.', 'Sagen Sie es denen, die die App gemacht haben.'],
    'switched-off': ['Die Standortbestimmung ist auf diesem Gerät ausgeschaltet.', 'Schalten Sie sie in den Einstellungen des Geräts ein, und versuchen Sie es noch einmal.'],
    refused: ['Sie haben dieser Seite Ihren Standort nicht mitgeteilt.', 'Drücken Sie den Knopf noch einmal, und wählen Sie „Zulassen“.'],
    barred: ['Diese Seite darf Ihren Standort nicht wissen.', 'Lassen Sie den Standort in den Einstellungen der Seite neben der Adresse zu, und versuchen Sie es noch einmal.'],
    declined: ['Dann jetzt nicht. Das Gerät wurde nach nichts gefragt.', 'Drücken Sie den Knopf, wann immer Sie möchten.'],
    withdrawn: ['Die Erlaubnis, Ihren Standort zu wissen, wurde zurückgenommen.', 'Lassen Sie den Standort in den Einstellungen der Seite neben der Adresse wieder zu.'],
    'approximate-only': ['Diese Seite erfährt nur ungefähr, wo Sie sind.', 'Lassen Sie in den Einstellungen den genauen Standort zu, oder gehen Sie mit dem ungefähren weiter.'],
    'no-signal': ['Das Gerät findet seinen Standort gerade nicht.', 'Gehen Sie unter freien Himmel, warten Sie einen Augenblick, und versuchen Sie es noch einmal.'],
    'timed-out': ['Das Gerät hat seinen Standort nicht rechtzeitig gefunden.', 'Versuchen Sie es noch einmal, am besten unter freiem Himmel.'],
    unknown: ['Beim Bestimmen Ihres Standorts ist etwas schiefgegangen.', 'Versuchen Sie es noch einmal; bleibt es dabei, sagen Sie es denen, die die App gemacht haben.'],
  },
}; // prettier-ignore

const french: ConsentTexts = {
  title: 'Votre position',
  goOn: 'Continuer',
  notNow: 'Pas maintenant',
  more: 'En savoir plus',
  close: 'Fermer',
  acts: { ask: 'Demander de nouveau', settings: 'Ouvrir les réglages', turnOn: 'L’activer' },
  failures: {
    unsupported: ['Cet appareil ne peut pas dire où il se trouve.', 'Ouvrez la page sur un téléphone, ou saisissez le lieu.'],
    insecure: ['Cette page ne peut pas demander votre position, car sa connexion n’est pas sécurisée.', 'Ouvrez la page à son adresse https.'],
    forbidden: ['Cette page ne peut pas demander votre position ici.', 'Ouvrez la page seule, hors de la page qui l’encadre.'],
    undeclared: ['Il manque à cette application la déclaration nécessaire pour demander votre position.', 'Signalez-le aux auteurs de l’application.'],
    'switched-off': ['La localisation est désactivée sur cet appareil.', 'Activez-la dans les réglages de l’appareil, puis réessayez.'],
    refused: ['Vous n’avez pas permis à cette page de connaître votre position.', 'Appuyez de nouveau sur le bouton et choisissez « Autoriser ».'],
    barred: ['Cette page n’est pas autorisée à connaître votre position.', 'Autorisez la position dans les réglages du site, à côté de l’adresse, puis réessayez.'],
    declined: ['Pas maintenant, donc. Rien n’a été demandé à l’appareil.', 'Appuyez sur le bouton quand vous voudrez.'],
    withdrawn: ['L’autorisation de connaître votre position a été retirée.', 'Autorisez de nouveau la position dans les réglages du site, à côté de l’adresse.'],
    'approximate-only': ['Cette page ne connaît que votre position approximative.', 'Autorisez la position exacte dans les réglages, ou continuez avec la position approximative.'],
    'no-signal': ['L’appareil ne trouve pas sa position pour le moment.', 'Allez à ciel ouvert, attendez un instant, puis réessayez.'],
    'timed-out': ['L’appareil n’a pas trouvé sa position à temps.', 'Réessayez, de préférence à ciel ouvert.'],
    unknown: ['Un problème est survenu en cherchant votre position.', 'Réessayez ; si le problème persiste, signalez-le aux auteurs de l’application.'],
  },
}; // prettier-ignore

const spanish: ConsentTexts = {
  title: 'Su posición',
  goOn: 'Seguir',
  notNow: 'Ahora no',
  more: 'Más sobre esto',
  close: 'Cerrar',
  acts: { ask: 'Preguntar de nuevo', settings: 'Abrir los ajustes', turnOn: 'Activarla' },
  failures: {
    unsupported: ['Este dispositivo no puede saber dónde está.', 'Abra la página en un teléfono, o escriba el lugar.'],
    insecure: ['Esta página no puede pedir su posición porque su conexión no es segura.', 'Abra la página en su dirección https.'],
    forbidden: ['Esta página no puede pedir su posición aquí.', 'Abra la página por sí sola, fuera de la página que la enmarca.'],
    undeclared: ['A esta aplicación le falta la declaración necesaria para pedir su posición.', 'Avise a quienes hicieron la aplicación.'],
    'switched-off': ['La ubicación está desactivada en este dispositivo.', 'Actívela en los ajustes del dispositivo e inténtelo de nuevo.'],
    refused: ['No permitió que esta página conociera su posición.', 'Pulse de nuevo el botón y elija «Permitir».'],
    barred: ['Esta página no tiene permiso para conocer su posición.', 'Permita la ubicación en los ajustes del sitio, junto a la dirección, e inténtelo de nuevo.'],
    declined: ['Ahora no, entonces. No se pidió nada al dispositivo.', 'Pulse el botón cuando quiera.'],
    withdrawn: ['Se retiró el permiso para conocer su posición.', 'Permita de nuevo la ubicación en los ajustes del sitio, junto a la dirección.'],
    'approximate-only': ['Esta página solo conoce su posición aproximada.', 'Permita la posición exacta en los ajustes, o siga con la aproximada.'],
    'no-signal': ['El dispositivo no encuentra su posición en este momento.', 'Vaya a cielo abierto, espere un momento e inténtelo de nuevo.'],
    'timed-out': ['El dispositivo no encontró su posición a tiempo.', 'Inténtelo de nuevo, mejor a cielo abierto.'],
    unknown: ['Algo salió mal al buscar su posición.', 'Inténtelo de nuevo; si continúa, avise a quienes hicieron la aplicación.'],
  },
}; // prettier-ignore

const BY_LANGUAGE: Readonly<Record<string, ConsentTexts>> = {
  en: english,
  de: german,
  fr: french,
  es: spanish,
};

/** The texts for the first of some languages (BCP 47 tags) that there are texts for; English where there is none. */
export function consentTexts(languages: readonly string[]): {
  readonly language: string;
  readonly texts: ConsentTexts;
} {
  for (const tag of languages) {
    const language = tag.toLowerCase().split('-')[0] ?? '';
    const texts = Object.hasOwn(BY_LANGUAGE, language) ? BY_LANGUAGE[language] : undefined;
    if (texts !== undefined) return { language, texts };
  }
  return { language: 'en', texts: english };
}
