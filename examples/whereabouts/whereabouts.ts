import {
  NoFixError,
  Receiver,
  accuracyText,
  ageText,
  browserSource,
  positionText,
  systemClock,
  type Fix,
  type Source,
} from 'aurelian-drift';
import 'aurelian-drift/elements';
import { MapSheet } from 'aurelian-drift/map';
import { CREDIT, groundAt } from '../shared/island.js';
import { BEHAVIOURS, pretendBanner, pretendDevice, type Behaviour } from '../shared/pretend.js';

const element = (id: string) => document.getElementById(id) as HTMLElement;
const find = element('find') as HTMLButtonElement;
const card = document.querySelector('aurelian-consent') as HTMLElementTagNameMap['aurelian-consent'];
const inspector = document.querySelector('aurelian-inspector') as HTMLElementTagNameMap['aurelian-inspector'];

const PURPOSE = 'This page tells you where you are. Your position stays on this device.';
/** A door in the hamlet of Tolvay. */
const PRETEND_PLACE = { lat: 44.20313, lon: -33.58124 };

/** A permission can be taken back only from who follows. */
const OFFERED = (Object.keys(BEHAVIOURS) as Behaviour[]).filter((name) => name !== 'withdrawn');

let receiver = receiverOver(browserSource());
let accuracy: number | undefined;
let map: MapSheet | undefined;
let shown: Fix | undefined;
let pretending = false;

element('purpose').textContent = PURPOSE;
find.addEventListener('click', () => void ask());
element('use-pretend').addEventListener('click', () => pretend('well'));
setInterval(showAge, 1000);

function receiverOver(source: Source): Receiver {
  const made = new Receiver({ source, purpose: PURPOSE, strict: true, explain: card.explain });
  card.receiver = inspector.receiver = made;
  return made;
}

function pretend(behaviour: Behaviour): void {
  pretending = true;
  pretendBanner(element('pretend'), 'This is not where you are.', behaviour, pretend, OFFERED);
  receiver = receiverOver(pretendDevice(behaviour, systemClock, { at: PRETEND_PLACE, reception: 'open' }));
  accuracy = BEHAVIOURS[behaviour].accuracy;
  void ask();
}

async function ask(): Promise<void> {
  find.disabled = true;
  element('offer').hidden = true;
  const asked = receiver;
  const unwatch = asked.$status.subscribe(({ state }) => {
    find.textContent =
      state === 'asking' ? 'Waiting for your answer…' : state === 'waiting' ? 'Looking…' : 'Where am I?';
  });
  try {
    await show(await asked.fix({ patience: 20, ...(accuracy !== undefined && { accuracy }) }));
  } catch (error) {
    if (!(error instanceof NoFixError)) throw error;
    element('offer').hidden = pretending; // the card says what happened and what helps
  } finally {
    unwatch();
    find.disabled = false;
    find.textContent = shown === undefined ? 'Where am I?' : 'Where am I now?';
  }
}

async function show(fix: Fix): Promise<void> {
  shown = fix;
  element('position').textContent = positionText(fix);
  element('accuracy').textContent = accuracyText(fix.accuracy) || '–';
  showAge();
  const container = element('map');
  if (map === undefined) {
    const ground = await groundAt(fix);
    container.hidden = false;
    map = new MapSheet({
      container,
      credit: CREDIT,
      label: 'Your place',
      ...(ground && { ground }),
    });
    if (ground === undefined) map.layers.put('grid', { kind: 'grid' });
  }
  map.showFix(fix);
}

function showAge(): void {
  const last = receiver.lastFix();
  element('age').textContent = last === undefined ? '–' : ageText(last.age);
  map?.redraw();
}
