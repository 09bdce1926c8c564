import type { Texts } from './texts.js';

/** The texts that users read, in Spanish. */
export const spanish: Texts = {
  language: 'es',
  page: {
    beforePrompt: 'Pulse el botón y elija «Permitir» cuando se le pregunte.',
    close: 'Cerrar',
  },
  consent: {
    title: 'Su posición',
    goOn: 'Seguir',
    notNow: 'Ahora no',
    more: 'Más sobre esto',
    close: 'Cerrar',
    askAgain: 'Preguntar de nuevo',
    openSettings: 'Abrir los ajustes',
    turnOn: 'Activarla',
  },
  failures: {
    unsupported: {
      happened: 'Este dispositivo no puede saber dónde está.',
      help: 'Abra la página en un teléfono, o escriba el lugar.',
    },
    insecure: {
      happened: 'Esta página no puede pedir su posición porque su conexión no es segura.',
      help: 'Abra la página en su dirección https.',
    },
    forbidden: {
      happened: 'Esta página no puede pedir su posición aquí.',
      help: 'Abra la página por sí sola, fuera de la página que la enmarca.',
    },
    undeclared: {
      happened: 'A esta aplicación le falta la declaración necesaria para pedir su posición.',
      help: 'Avise a quienes hicieron la aplicación.',
    },
    'switched-off': {
      happened: 'La ubicación está desactivada en este dispositivo.',
      help: 'Actívela en los ajustes del dispositivo e inténtelo de nuevo.',
    },
    refused: {
      happened: 'No permitió que esta página conociera su posición.',
      help: 'Pulse de nuevo el botón y elija «Permitir».',
    },
    barred: {
      happened: 'Esta página no tiene permiso para conocer su posición.',
      help: 'Permita la ubicación en los ajustes del sitio, junto a la dirección, e inténtelo de nuevo.',
    },
    declined: {
      happened: 'Ahora no, entonces. No se pidió nada al dispositivo.',
      help: 'Pulse el botón cuando quiera.',
    },
    withdrawn: {
      happened: 'Se retiró el permiso para conocer su posición.',
      help: 'Permita de nuevo la ubicación en los ajustes del sitio, junto a la dirección.',
    },
    'approximate-only': {
      happened: 'Esta página solo conoce su posición aproximada.',
      help: 'Permita la posición exacta en los ajustes, o siga con la aproximada.',
    },
    'no-signal': {
      happened: 'El dispositivo no encuentra su posición en este momento.',
      help: 'Vaya a cielo abierto, espere un momento e inténtelo de nuevo.',
    },
    'timed-out': {
      happened: 'El dispositivo no encontró su posición a tiempo.',
      help: 'Inténtelo de nuevo, mejor a cielo abierto.',
    },
    unknown: {
      happened: 'Algo salió mal al buscar su posición.',
      help: 'Inténtelo de nuevo; si continúa, avise a quienes hicieron la aplicación.',
    },
  },
  ways: {
    turns: {
      start: { plain: 'Salir', onto: 'Salir por {lane}' },
      straight: { plain: 'Seguir recto', onto: 'Seguir recto por {lane}' },
      'slight-left': { plain: 'Mantenerse a la izquierda', onto: 'Mantenerse a la izquierda por {lane}' },
      left: { plain: 'Girar a la izquierda', onto: 'Girar a la izquierda por {lane}' },
      'sharp-left': {
        plain: 'Girar del todo a la izquierda',
        onto: 'Girar del todo a la izquierda por {lane}',
      },
      'slight-right': { plain: 'Mantenerse a la derecha', onto: 'Mantenerse a la derecha por {lane}' },
      right: { plain: 'Girar a la derecha', onto: 'Girar a la derecha por {lane}' },
      'sharp-right': { plain: 'Girar del todo a la derecha', onto: 'Girar del todo a la derecha por {lane}' },
      back: { plain: 'Dar la vuelta', onto: 'Dar la vuelta en {lane}' },
      via: {
        plain: 'Pasar por el punto intermedio',
        onto: 'Pasar por el punto intermedio y seguir por {lane}',
      },
      arrive: { plain: 'Ha llegado', onto: 'Ha llegado a {lane}' },
    },
    kinds: {
      road: 'una carretera',
      street: 'una calle',
      lane: 'un camino vecinal',
      track: 'una pista',
      path: 'un sendero',
      steps: 'unas escaleras',
    },
    step: '{text}, {length}',
    noWay: 'Ningún camino lleva allí. El lugar accesible más cercano está a {length}.',
    offNetwork: 'No hay ningún camino cerca. El más cercano está a {length}.',
  },
};
