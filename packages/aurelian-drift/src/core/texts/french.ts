import type { Texts } from './texts.js';

/** The texts that users read, in French. */
export const french: Texts = {
  language: 'fr',
  page: {
    beforePrompt: 'Appuyez sur le bouton et choisissez « Autoriser » quand la question vous est posée.',
    close: 'Fermer',
  },
  consent: {
    title: 'Votre position',
    goOn: 'Continuer',
    notNow: 'Pas maintenant',
    more: 'En savoir plus',
    close: 'Fermer',
    askAgain: 'Demander de nouveau',
    openSettings: 'Ouvrir les réglages',
    turnOn: 'L’activer',
  },
  failures: {
    unsupported: {
      happened: 'Cet appareil ne peut pas dire où il se trouve.',
      help: 'Ouvrez la page sur un téléphone, ou saisissez le lieu.',
    },
    insecure: {
      happened: 'Cette page ne peut pas demander votre position, car sa connexion n’est pas sécurisée.',
      help: 'Ouvrez la page à son adresse https.',
    },
    forbidden: {
      happened: 'Cette page ne peut pas demander votre position ici.',
      help: 'Ouvrez la page seule, hors de la page qui l’encadre.',
    },
    undeclared: {
      happened: 'Il manque à cette application la déclaration nécessaire pour demander votre position.',
      help: 'Signalez-le aux auteurs de l’application.',
    },
    'switched-off': {
      happened: 'La localisation est désactivée sur cet appareil.',
      help: 'Activez-la dans les réglages de l’appareil, puis réessayez.',
    },
    refused: {
      happened: 'Vous n’avez pas permis à cette page de connaître votre position.',
      help: 'Appuyez de nouveau sur le bouton et choisissez « Autoriser ».',
    },
    barred: {
      happened: 'Cette page n’est pas autorisée à connaître votre position.',
      help: 'Autorisez la position dans les réglages du site, à côté de l’adresse, puis réessayez.',
    },
    declined: {
      happened: 'Pas maintenant, donc. Rien n’a été demandé à l’appareil.',
      help: 'Appuyez sur le bouton quand vous voudrez.',
    },
    withdrawn: {
      happened: 'L’autorisation de connaître votre position a été retirée.',
      help: 'Autorisez de nouveau la position dans les réglages du site, à côté de l’adresse.',
    },
    'approximate-only': {
      happened: 'Cette page ne connaît que votre position approximative.',
      help: 'Autorisez la position exacte dans les réglages, ou continuez avec la position approximative.',
    },
    'no-signal': {
      happened: 'L’appareil ne trouve pas sa position pour le moment.',
      help: 'Allez à ciel ouvert, attendez un instant, puis réessayez.',
    },
    'timed-out': {
      happened: 'L’appareil n’a pas trouvé sa position à temps.',
      help: 'Réessayez, de préférence à ciel ouvert.',
    },
    unknown: {
      happened: 'Un problème est survenu en cherchant votre position.',
      help: 'Réessayez ; si le problème persiste, signalez-le aux auteurs de l’application.',
    },
  },
  ways: {
    turns: {
      start: { plain: 'Partir', onto: 'Partir : {lane}' },
      straight: { plain: 'Continuer tout droit', onto: 'Continuer tout droit : {lane}' },
      'slight-left': { plain: 'Serrer à gauche', onto: 'Serrer à gauche : {lane}' },
      left: { plain: 'Tourner à gauche', onto: 'Tourner à gauche : {lane}' },
      'sharp-left': { plain: 'Tourner franchement à gauche', onto: 'Tourner franchement à gauche : {lane}' },
      'slight-right': { plain: 'Serrer à droite', onto: 'Serrer à droite : {lane}' },
      right: { plain: 'Tourner à droite', onto: 'Tourner à droite : {lane}' },
      'sharp-right': { plain: 'Tourner franchement à droite', onto: 'Tourner franchement à droite : {lane}' },
      back: { plain: 'Faire demi-tour', onto: 'Faire demi-tour : {lane}' },
      via: { plain: 'Passer par l’étape', onto: 'Passer par l’étape, puis continuer : {lane}' },
      arrive: { plain: 'Vous êtes arrivé', onto: 'Vous êtes arrivé : {lane}' },
    },
    kinds: {
      road: 'route',
      street: 'rue',
      lane: 'petite route',
      track: 'chemin',
      path: 'sentier',
      steps: 'escalier',
    },
    step: '{text}, {length}',
    noWay: 'Aucun chemin n’y mène. Le lieu accessible le plus proche en est à {length}.',
    offNetwork: 'Il n’y a pas de chemin à proximité. Le plus proche est à {length}.',
  },
};
