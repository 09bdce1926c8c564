import {
  NoFixError,
  Receiver,
  accuracyText,
  ageText,
  browserSource,
  positionText,
  type Fix,
} from 'aurelian-drift';
import { MapSheet } from 'aurelian-drift/map';
import { SimulatedDevice } from 'aurelian-drift/testing';
import { CREDIT, groundAt } from '../shared/island.js';

const element = (id: string) => document.getElementById(id) as HTMLElement;
const find = element('find') as HTMLButtonElement;

const PURPOSE = 'This page tells you where you are. Your position stays on this device.';
/** A door in the hamlet of Tolvay. */
const PRETEND_PLACE = { lat: 44.20313, lon: -33.58124 };

let receiver = new Receiver({ source: browserSource(), purpose: PURPOSE });
let map: MapSheet | undefined;
let shown: Fix | undefined;

element('purpose').textContent = PURPOSE;
find.addEventListener('click', () => void ask());
element('use-pretend').addEventListener('click', () => {
  receiver = new Receiver({
    source: new SimulatedDevice({ at: PRETEND_PLACE, reception: 'open' }),
    purpose: PURPOSE,
  });
  element('pretend').hidden = false;
  void ask();
});
setInterval(showAge, 1000);

async function ask(): Promise<void> {
  find.disabled = true;
  element('note').hidden = true;
  const unwatch = receiver.$status.subscribe(({ state }) => {
    find.textContent =
      state === 'asking' ? 'Waiting for your answer…' : state === 'waiting' ? 'Looking…' : 'Where am I?';
  });
  try {
    await show(await receiver.fix({ patience: 20 }));
  } catch (error) {
    if (!(error instanceof NoFixError)) throw error;
    showFailure(error);
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
      credit: ground === undefined ? 'No background for this place' : CREDIT,
      label: 'Your place',
      ...(ground && { ground }),
    });
  }
  map.showFix(fix);
}

function showAge(): void {
  const last = receiver.lastFix();
  element('age').textContent = last === undefined ? '–' : ageText(last.age);
  map?.redraw();
}

function showFailure(error: NoFixError): void {
  element('what').textContent = error.userText;
  element('remedy').textContent = error.remedy.text;
  element('offer').hidden = false;
  element('note').hidden = false;
}
