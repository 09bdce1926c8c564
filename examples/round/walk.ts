import {
  FenceWatch,
  Recorder,
  ageText,
  fencesFrom,
  positionText,
  writeGpx,
  type Clock,
  type Fence,
  type Fix,
  type Receiver,
} from 'aurelian-drift';
import { MapSheet } from 'aurelian-drift/map';
import { browserStore } from 'aurelian-drift/stores';
import type { Choice, FindElement } from 'aurelian-drift/elements';
import { PlaceWatch, addressOnTap, type PlaceService } from 'aurelian-drift/places';
import { CREDIT, groundAt, load } from '../shared/island.js';
import { answerText, placeService, readingText } from '../shared/places.js';
import { button, element, write, writeCrossing, writeFix, writeStanding, writeSummary } from './book.js';

const find = document.querySelector('aurelian-find') as FindElement;

/** Trails stay in this browser, also when it is closed or killed on the way. */
export const store = browserStore({ name: 'round' });

export interface WalkParts {
  readonly receiver: Receiver;
  readonly clock: Clock;
  readonly first: Fix;
  /** Says what helps when following fails on the way. */
  readonly card: HTMLElement;
  /** How many times as fast as real the clock runs. */
  readonly tempo: number;
  /** The id of a trail that broke off, to go on with. */
  readonly broken?: string | undefined;
}

/** A round from its first fix to its end: map, trail, sections, and the field book. */
export async function walk({ receiver, clock, first, card, tempo, broken }: WalkParts): Promise<void> {
  const ground = await groundAt(first);
  const document = await load('sections');
  const fences = fencesFrom(document);
  const closed = closedIds(document);
  const watch = new FenceWatch(fences);
  const recorder = await recorderFor(broken);
  // On a hurried clock a stutter of the page is minutes long.
  const staleAfter = 15 * tempo;
  const follow = receiver.follow({ silentAfter: staleAfter });
  if (!recorder.resume(follow)) recorder.start(follow);

  element('before').hidden = true;
  element('map').after(card);
  const map = new MapSheet({
    container: element('map'),
    credit: CREDIT,
    label: 'Map of the round',
    now: () => clock.now(),
    staleAfter,
    ...(ground && { ground }),
  });
  if (ground === undefined) map.layers.put('grid', { kind: 'grid' });
  const toneOf = (fence: Fence) => (closed.has(fence.id) ? 'closed' : 'ordinary');
  map.showFences(fences, { toneOf });
  map.showTrails([recorder.trail]);
  map.showFix(first);

  const places = placeService();
  const place = new PlaceWatch({ places, clock });
  place.watch(follow);
  place.$reading.subscribe((reading) => write('place', readingText(reading)));
  offerPlaces(map, places);

  follow.tap((fix) => {
    find.near = fix;
    const crossings = watch.advance(fix);
    for (const crossing of crossings) writeCrossing(crossing, closed.has(crossing.fence));
    if (crossings.length > 0) {
      map.showFences(fences, { toneOf, inside: watch.inside });
      const names = fences.filter((fence) => watch.inside.has(fence.id)).map((fence) => fence.name);
      write('inside', names.length === 0 ? 'Not in a section.' : `In ${names.join(', ')}.`);
    }
    map.showFix(fix);
    writeFix(fix);
  });
  const began = clock.now();
  follow.$state.subscribe((state) => writeStanding(state, began));
  void follow.over.then(() => (button('keep-on').hidden = true));
  follow.onEvent((event) => {
    if (event.kind === 'gap') watch.breakSegment();
    if (event.kind !== 'visible-only' || event.keepScreenOn === undefined) return;
    const { keepScreenOn } = event;
    button('keep-on').hidden = false;
    button('keep-on').addEventListener('click', () => {
      void keepScreenOn().then((kept) => {
        button('keep-on').disabled = true;
        write('keep-on', kept ? 'The screen stays on' : 'This screen cannot be kept on');
      });
    });
  });
  follow.onFailure(() => (button('pause').disabled = true)); // the card says why, and what helps
  recorder.$summary.subscribe(writeSummary);
  recorder.$trouble.subscribe((trouble) => {
    const text = trouble === undefined ? '' : 'The trail cannot be kept just now; it goes on in memory.';
    write('trouble', text);
  });
  recorder.$state.subscribe((state) => {
    button('pause').disabled = state !== 'recording' && state !== 'paused';
    button('finish').disabled = state !== 'recording' && state !== 'paused';
    write('pause', state === 'paused' ? 'Resume' : 'Pause');
  });
  button('pause').addEventListener('click', () => {
    if (!recorder.pause()) recorder.resume();
  });
  button('finish').addEventListener('click', () => void finish());
  setInterval(() => {
    const last = receiver.lastFix();
    write('age', last === undefined ? '–' : ageText(last.age));
    map.redraw();
  }, 1000);

  async function finish(): Promise<void> {
    follow.stop();
    const trail = await recorder.finish();
    const save = element('save') as HTMLAnchorElement;
    save.href = URL.createObjectURL(
      new Blob([writeGpx({ trails: [trail] })], { type: 'application/gpx+xml' }),
    );
    save.hidden = false;
  }
}

function recorderFor(broken: string | undefined): Promise<Recorder> {
  if (broken !== undefined) return Recorder.takeUp(broken, store);
  return Promise.resolve(new Recorder({ name: 'Round', store }));
}

/** Places found by name come onto the map, and a tap on it tells the address there. */
function offerPlaces(map: MapSheet, places: PlaceService): void {
  find.places = places;
  find.addEventListener('choose', (event) => {
    const { at, text } = (event as CustomEvent<Choice>).detail;
    map.pins.add({ id: 'found', group: 'found', ...at, text, open: true, colour: '#5b4a8a' });
    map.follow('free');
    map.look({ centre: at });
  });
  addressOnTap(map, places, {
    onTapped: ({ at, answers, error }) => {
      const text = error?.userText ?? (answers === undefined ? 'Looking up the place…' : answerText(answers));
      write('tapped', `${positionText(at)}: ${text}`);
    },
  });
}

function closedIds(document: unknown): Set<string> {
  const { features } = document as { features: { id?: string; properties: { closed?: boolean } }[] };
  return new Set(features.filter((each) => each.properties.closed === true).map((each) => String(each.id)));
}
