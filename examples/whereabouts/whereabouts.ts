import {
  NoFixError,
  Receiver,
  accuracyText,
  ageText,
  browserSource,
  positionText,
  systemClock,
  type Clock,
  type Fix,
  type Source,
} from 'aurelian-drift';
import 'aurelian-drift/elements';
import type { FindElement } from 'aurelian-drift/elements';
import { MapSheet } from 'aurelian-drift/map';
import { ServiceError, addressOnTap, type PlaceAnswer } from 'aurelian-drift/places';
import { offerOwnMap, showGround } from '../shared/own-map.js';
import { answerText, originText, placeService, serviceAddress } from '../shared/places.js';
import { BEHAVIOURS, behaviourAsked, isPretend, makePretend, type Behaviour } from '../shared/pretend.js';
import { showPanel, tapsOn } from '../shared/pretend-panel.js';

const element = (id: string) => document.getElementById(id) as HTMLElement;
const find = element('find') as HTMLButtonElement;
const card = document.querySelector('aurelian-consent') as HTMLElementTagNameMap['aurelian-consent'];
const byHand = document.querySelector('aurelian-find') as FindElement;
const inspector = document.querySelector('aurelian-inspector') as HTMLElementTagNameMap['aurelian-inspector'];

const service = serviceAddress();
const PURPOSE =
  service === undefined
    ? 'This page tells you where you are. Your position stays on this device.'
    : `This page tells you where you are. ${new URL(service).host} is asked what the place is ` +
      `called, and learns your position.`;
/** A door in the hamlet of Tolvay. */
const PRETEND_PLACE = { lat: 44.20313, lon: -33.58124 };

/** A permission can be revoked only while the page follows. */
const OFFERED = (Object.keys(BEHAVIOURS) as Behaviour[]).filter((name) => name !== 'withdrawn');

let pretending = false;
let receiver = receiverOver(browserSource(), systemClock);
let accuracy: number | undefined;
let map: MapSheet | undefined;
let shown: Fix | undefined;
/** Cancels the look-up of an older fix: only the answer for the newest is shown. */
let lookUp = new AbortController();
const places = placeService();

element('purpose').textContent = PURPOSE;
const whither =
  service === undefined ? 'sent to nobody' : `sent to ${new URL(service).host} to learn what it is called`;
card.reason = `Next you are asked whether this page may know your position. It is shown to you, and ${whither}.`;
find.addEventListener('click', () => void ask());
byHand.places = places;
byHand.addEventListener('choose', (event) => {
  const { at, answer } = event.detail;
  show(receiver.placeByHand(at), answer);
});
element('use-pretend').addEventListener('click', () => {
  pretend('well');
  void ask();
});
offerOwnMap(() => {
  if (map !== undefined) showGround(map, shown);
});
setInterval(showAge, 1000);
if (isPretend()) pretend(behaviourAsked());

function receiverOver(source: Source, clock: Clock): Receiver {
  const made = new Receiver({ source, clock, purpose: PURPOSE, strict: true, explain: card.explain });
  card.receiver = inspector.receiver = made;
  return made;
}

function pretend(behaviour: Behaviour): void {
  pretending = true;
  const made = makePretend(behaviour, { at: PRETEND_PLACE, reception: 'open' });
  receiver = receiverOver(made.device, made.clock);
  accuracy = made.accuracy;
  showPanel({
    pretend: made,
    text: 'A pretend device. This is not where you are.',
    offered: OFFERED,
    onBehaviour(next) {
      pretend(next);
      void ask();
    },
  });
}

async function ask(): Promise<void> {
  find.disabled = true;
  element('offer').hidden = true;
  const asked = receiver;
  const unwatch = asked.$status.subscribe((status) => {
    find.textContent =
      status.state === 'asking'
        ? 'Waiting for your answer…'
        : status.state === 'waiting'
          ? `Looking… ${accuracyText(status.accuracy)}`
          : 'Where am I?';
  });
  try {
    show(await asked.fix({ patience: 20, ...(accuracy !== undefined && { accuracy }) }));
  } catch (error) {
    if (!(error instanceof NoFixError)) throw error;
    element('offer').hidden = pretending; // the card shows what happened and what helps
  } finally {
    unwatch();
    find.disabled = false;
    find.textContent = shown === undefined ? 'Where am I?' : 'Where am I now?';
  }
}

function show(fix: Fix, known?: PlaceAnswer): void {
  shown = fix;
  element('position').textContent = positionText(fix);
  element('accuracy').textContent = accuracyText(fix.accuracy) || originText(fix) || '–';
  byHand.near = fix;
  void tellPlace(fix, known);
  showAge();
  const container = element('map');
  if (map === undefined) {
    container.hidden = false;
    map = new MapSheet({ container, label: 'Your place', theme: 'auto' });
    showGround(map, fix);
    addressOnTap(map, places);
    tapsOn(map);
  }
  map.showFix(fix);
}

/** The place name is shown when it arrives; until then, and if it does not arrive, the numbers are shown. */
async function tellPlace(fix: Fix, known: PlaceAnswer | undefined): Promise<void> {
  lookUp.abort();
  const own = (lookUp = new AbortController());
  const place = element('place');
  try {
    place.textContent = known?.text ?? 'Looking up the place…';
    // A rough fix gets the name of a hamlet, not of a house.
    const level = (fix.accuracy ?? 0) > 75 ? 'locality' : 'house';
    const answers = known === undefined ? await places.at(fix, { level, signal: own.signal }) : [known];
    if (!own.signal.aborted) place.textContent = answerText(answers);
  } catch (error) {
    if (own.signal.aborted) return;
    if (!(error instanceof ServiceError)) throw error;
    place.textContent = error.userText;
  }
}

function showAge(): void {
  const last = receiver.lastFix();
  element('age').textContent = last === undefined ? '–' : ageText(last.age);
  map?.redraw();
}
