import { positionText, readPosition, type Position } from 'aurelian-drift';
import type { MapSheet } from 'aurelian-drift/map';
import {
  GAIT_NAMES,
  RECEPTION_NAMES,
  type Gait,
  type Reception,
  type ScaledClock,
} from 'aurelian-drift/testing';
import { piece, pressable } from './page.js';
import { BEHAVIOURS, roundFrom, type Behaviour, type Pretend } from './pretend.js';

/* The panel of a pretend device: its place, its motion, what it hears, what its user answers, the system around it. */

const GAIT_WORDS: Readonly<Record<Gait, string>> = {
  walk: 'walks',
  run: 'runs',
  cycle: 'cycles',
  drive: 'drives',
  ferry: 'sails',
};
const RECEPTION_WORDS: Readonly<Record<Reception, string>> = {
  exact: 'without error',
  open: 'under an open sky',
  trees: 'under trees',
  street: 'between houses',
  deep: 'in a ravine, with gaps',
  meadow: 'of a phone, in a meadow',
  wood: 'of a phone, in a wood',
  town: 'of a phone, in a town',
};
const ANSWER_WORDS = {
  grant: 'allows it',
  once: 'allows it once',
  approximate: 'allows an approximate place',
  refuse: 'refuses',
  bar: 'refuses for good',
  ignore: 'does not answer',
} as const;
const TEMPOS = [0, 1, 5, 20, 60, 200];

export interface PanelParts {
  readonly pretend: Pretend;
  /** What it does, for the visitor. */
  readonly text: string;
  /** Behaviours that the page offers. Default: all. */
  readonly offered?: readonly Behaviour[];
  /** Takes another behaviour. Default: the page is loaded again. */
  readonly onBehaviour?: (behaviour: Behaviour) => void;
}

let shownMap: MapSheet | undefined;
let tapping: HTMLButtonElement | undefined;
let put: (place: Position) => void = () => {};
let unlisten = () => {};

/** The map on which a tap places the pretend device. Returns the function that lets go of it. */
export function tapsOn(map: MapSheet | undefined): () => void {
  unlisten();
  shownMap = map;
  if (tapping !== undefined) tapping.hidden = map === undefined;
  const off =
    map?.onEvent((event) => {
      if (event.kind !== 'tap' || tapping?.ariaPressed !== 'true') return;
      tapping.ariaPressed = 'false';
      put(event.at);
    }) ?? (() => {});
  unlisten = off;
  return () => {
    if (shownMap === map) shownMap = undefined;
    off();
  };
}

interface PanelBuilder {
  readonly controls: HTMLElement;
  /** Tells what was done. */
  readonly told: HTMLElement;
  readonly choice: <T extends string>(
    label: string,
    names: readonly T[],
    words: (name: T) => string,
    now: T,
    choose: (name: T) => void,
  ) => void;
  readonly act: (label: string, press: (button: HTMLButtonElement) => void) => HTMLButtonElement;
}

/** An empty panel, open where there is room for it. */
export function panelIn(banner: HTMLElement, text: string): PanelBuilder {
  const told = piece('output', '', 'told');
  const controls = piece('div', '', 'controls');
  const details = document.createElement('details');
  details.open = matchMedia('(min-width: 761px)').matches;
  details.append(piece('summary', text), controls, told);
  banner.replaceChildren(details);
  banner.hidden = false;
  return {
    controls,
    told,
    choice(label, names, words, now, choose) {
      const select = document.createElement('select');
      select.append(...names.map((name) => new Option(words(name), name, false, name === now)));
      select.addEventListener('change', () => choose(select.value as (typeof names)[number]));
      const labelled = piece('label', `${label} `);
      labelled.append(select);
      controls.append(labelled);
    },
    act(label, press) {
      const made = pressable(label, () => press(made));
      controls.append(made);
      return made;
    },
  };
}

/** Offers another speed of time; it is kept in the address. */
export function offerTempo(choice: PanelBuilder['choice'], clock: ScaledClock): void {
  const tempos = [...new Set([...TEMPOS, clock.tempo])].sort((a, b) => a - b);
  choice(
    'Time',
    tempos.map(String),
    (name) => (name === '0' ? 'stands still' : name === '1' ? 'is real' : `is ${name} times as fast`),
    String(clock.tempo),
    (name) => {
      clock.tempo = Number(name);
      keep('tempo', name);
    },
  );
}

/** Shows the panel in the element #pretend, in the place of one that was there. */
export function showPanel({ pretend, text, offered, onBehaviour = reloadAs }: PanelParts): void {
  const banner = document.getElementById('pretend');
  if (banner === null) return;
  const { device, clock, behaviour } = pretend;
  const behaviours = offered ?? (Object.keys(BEHAVIOURS) as Behaviour[]);
  const { controls, told, choice, act } = panelIn(banner, text);

  choice('Pretend device that', behaviours, (name) => BEHAVIOURS[name].label, behaviour, onBehaviour);
  let place: Position | undefined;
  const form = document.createElement('form');
  const field = document.createElement('input');
  field.placeholder = '44.2031, -33.5812';
  const labelled = piece('label', 'It is at ');
  labelled.append(field);
  form.append(labelled, piece('button', 'Put it there'));
  form.addEventListener('submit', (event) => {
    event.preventDefault();
    const at = readPosition(field.value);
    if (at === undefined) told.textContent = 'This is no position: write it like 44.2031, -33.5812.';
    else put(at);
  });
  controls.append(form);
  put = (at) => {
    place = { lat: at.lat, lon: at.lon };
    device.moveTo(place);
    told.textContent = `It stands at ${positionText(place)}.`;
  };
  tapping = act('Put it by a tap on the map', (button) => {
    button.ariaPressed = String(button.ariaPressed !== 'true');
  });
  tapping.ariaPressed = 'false';
  tapping.hidden = shownMap === undefined;
  choice(
    'It',
    GAIT_NAMES,
    (name) => GAIT_WORDS[name],
    device.gait,
    (gait) => {
      device.gait = gait;
      // From where it was put it goes on in a round of its own.
      if (place !== undefined) device.walk(roundFrom(place));
      place = undefined;
      told.textContent = `It ${GAIT_WORDS[gait]}.`;
    },
  );
  choice(
    'Reception',
    RECEPTION_NAMES,
    (name) => RECEPTION_WORDS[name],
    device.reception,
    (reception) => {
      device.reception = reception;
    },
  );
  const answers = Object.keys(ANSWER_WORDS) as (keyof typeof ANSWER_WORDS)[];
  const answer = answers.find((name) => name === device.answer) ?? 'grant';
  choice(
    'Asked, its user',
    answers,
    (name) => ANSWER_WORDS[name],
    answer,
    (name) => {
      device.answer = name;
    },
  );
  const power = document.createElement('input');
  power.type = 'checkbox';
  power.checked = device.switchedOn;
  // Its user may turn it on when the app asks for it.
  device.onEvent(() => (power.checked = device.switchedOn));
  power.addEventListener('change', () => (device.switchedOn = power.checked));
  const switchLabel = piece('label', '');
  switchLabel.append(power, ' location is on');
  controls.append(switchLabel);
  act('Hide the page', (button) => {
    if (device.life.hidden) device.show();
    else device.hide();
    button.textContent = device.life.hidden ? 'Show the page' : 'Hide the page';
    told.textContent = device.life.hidden ? 'The page is told that it is hidden.' : '';
  });
  act('Kill the page', () => kill());
  offerTempo(choice, clock);
}

let killed = false;
// These listeners are older than those of the app, so that they are called first.
if (typeof window !== 'undefined')
  for (const name of ['pagehide', 'beforeunload', 'visibilitychange'])
    addEventListener(name, (event) => killed && event.stopImmediatePropagation(), { capture: true });

/** The page ends as if the system had killed it: nothing in it is told. Then it is opened again. */
function kill(): void {
  killed = true;
  location.reload();
}

/** Keeps a setting of the panel in the address, for the next time that the page is opened. */
function keep(name: string, value: string): void {
  const address = new URL(location.href);
  address.searchParams.set(name, value);
  history.replaceState(history.state, '', address);
}

function reloadAs(behaviour: Behaviour): void {
  keep('pretend', behaviour);
  location.reload();
}
