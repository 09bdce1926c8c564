import {
  CrossingLog,
  FenceWatch,
  Recorder,
  ageText,
  motionOf,
  writeCrossingsCsv,
  fencesFrom,
  positionText,
  writeGpx,
  type Clock,
  type Fence,
  type Fix,
  type Receiver,
  type Source,
} from 'aurelian-drift';
import type { MapSheet, TrailPath } from 'aurelian-drift/map';
import { browserStore } from 'aurelian-drift/stores';
import type { FindElement } from 'aurelian-drift/elements';
import { PlaceWatch, addressOnTap, type PlaceService } from 'aurelian-drift/places';
import { load } from '../shared/island.js';
import { answerText, placeService, readingText } from '../shared/places.js';
import { PlanDesk } from './plan-desk.js';
import { WayDesk } from './way-desk.js';
import { ShareDesk } from './share-desk.js';
import { FenceDesk, keptFences } from './fence-desk.js';
import { button, element, write } from '../shared/page.js';
import { askToKeep } from './offline-desk.js';
import { makeMap } from './round-map.js';
import { writeCrossing, writeFix, writeMotion, writeStanding, writeSummary } from './book.js';

const find = document.querySelector('aurelian-find') as FindElement;

/** Trails are stored in this browser, and survive its closing and killing. */
export const store = browserStore({ name: 'round' });

export interface WalkParts {
  readonly receiver: Receiver;
  readonly source: Source;
  readonly clock: Clock;
  readonly first: Fix;
  /** Says what helps when following fails during the walk. */
  readonly card: HTMLElement;
  /** How many times faster than real time the clock runs. */
  readonly tempo: number;
  /** The id of an interrupted trail to continue. */
  readonly broken?: string | undefined;
  /** Name of the round that is walked. */
  readonly round?: string | undefined;
  /** The trail is finished and kept. */
  readonly onFinished: () => void;
}

/** A round from its first fix to its end: map, trail, sections, and the field book. */
export async function walk({
  receiver,
  source,
  clock,
  first,
  card,
  tempo,
  broken,
  round,
  onFinished,
}: WalkParts): Promise<void> {
  const document = await load('sections');
  const kept = keptFences();
  let fences: readonly Fence[] = [...fencesFrom(document), ...kept.fences];
  const closed = closedIds(document);
  const watch = new FenceWatch(fences);
  const recorder = await recorderFor(broken);
  const log =
    broken === undefined
      ? new CrossingLog(watch, recorder)
      : await CrossingLog.reopen(broken, store, watch, recorder);
  // With a fast clock a short delay of the page is minutes long.
  const staleAfter = 15 * tempo;
  const follow = receiver.follow({ silentAfter: staleAfter });
  if (!recorder.resume(follow)) recorder.start(follow);
  void askToKeep();

  element('before').hidden = true;
  element('map').after(card);
  const map = makeMap(first, { now: () => clock.now(), staleAfter });
  const toneOf = (fence: Fence) => (closed.has(fence.id) ? 'closed' : 'ordinary');
  let drawn: string | undefined;
  const sidesNow = () => fences.map(({ id }) => watch.sideOf(id)).join();
  /** The sides that the map shows. */
  let sides: string;
  const showFences = () => {
    sides = sidesNow();
    const those = (wanted: string | undefined) =>
      new Set(fences.flatMap(({ id }) => (watch.sideOf(id) === wanted ? [id] : [])));
    // A fence that is being redrawn is shown as its draft.
    const shown = fences.filter(({ id }) => id !== drawn);
    map.showFences(shown, {
      toneOf,
      inside: watch.inside,
      uncertain: those('uncertain'),
      off: those(undefined),
    });
    const names = fences.filter((fence) => watch.inside.has(fence.id)).map((fence) => fence.name);
    write('inside', names.length === 0 ? 'Not in a section.' : `In ${names.join(', ')}.`);
  };
  showFences();
  new FenceDesk({
    map,
    fences: kept.fences,
    onFence(fence) {
      fences = [...fences.filter(({ id }) => id !== fence.id), fence];
      log.addFence(fence);
      showFences();
    },
    onRemoved(id) {
      log.removeFence(id);
      fences = fences.filter((fence) => fence.id !== id);
      showFences();
    },
    onDrawing(id) {
      drawn = id;
      // While drawing, taps set corners.
      quiet();
      if (id === undefined) quiet = tellAddresses(map, places, way);
      element('map').parentElement?.classList.toggle('drawing', id !== undefined);
      showFences();
    },
  }).show();
  write('fence-events', kept.reported);
  const path = element('path') as HTMLSelectElement;
  const showPath = () => map.showTrails([recorder.trail], { path: path.value as TrailPath });
  path.addEventListener('change', showPath);
  showPath();
  map.showFix(first);

  new ShareDesk({ receiver, life: source.life, clock, pretend: tempo !== 1 }).show();

  const way = new WayDesk({ map, follow, clock, closed: fences.filter(({ id }) => closed.has(id)) });
  void new PlanDesk({
    map,
    follow,
    name: round,
    resumes: broken !== undefined,
    onWayBack: (to) => way.lead(to, 'the plan'),
  }).show();

  const places = placeService();
  const place = new PlaceWatch({ places, clock });
  place.follow(follow);
  place.$reading.subscribe((reading) => write('place', readingText(reading)));
  offerPlaces(map, places, way);
  map.onEvent((event) => {
    const pin = event.kind === 'tap' && event.pin !== undefined ? map.pins.get(event.pin) : undefined;
    if (pin !== undefined) way.offer(pin, pin.text ?? positionText(pin));
  });
  let quiet = tellAddresses(map, places, way);

  let written = 0;
  log.$crossings.subscribe((crossings) => {
    for (const crossing of crossings.slice(written)) writeCrossing(crossing, closed.has(crossing.fence));
    written = crossings.length;
  });
  log.follow(follow);
  follow.onFix((fix) => {
    find.near = fix;
    if (sidesNow() !== sides) showFences();
    map.showFix(fix);
    writeFix(fix);
  });
  motionOf(follow).subscribe(writeMotion);
  const began = clock.now();
  follow.$status.subscribe((state) => writeStanding(state, began));
  void follow.outcome.then(() => (button('keep-on').hidden = true));
  follow.onEvent((event) => {
    if (event.kind === 'failed') {
      button('pause').disabled = true; // the card shows the reason, and what helps
      button('pause').title = event.error.userText;
    }
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
  recorder.$summary.subscribe(writeSummary);
  recorder.$error.subscribe((error) => {
    const full = isQuota(error);
    const reason = full
      ? 'The browser has no room left: delete old trails. '
      : 'The trail cannot be kept just now. ';
    write('trouble', error === undefined ? '' : `${reason}It goes on in memory.`);
  });
  recorder.$status.subscribe(({ state }) => {
    const going = state === 'recording' || state === 'cut-off' || state === 'paused';
    button('pause').disabled = !going;
    button('finish').disabled = !going;
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
    const saveLog = element('save-log') as HTMLAnchorElement;
    saveLog.href = URL.createObjectURL(new Blob([writeCrossingsCsv(log.select())], { type: 'text/csv' }));
    saveLog.hidden = false;
    onFinished();
  }
}

/** Whether the room for stored data is used up, somewhere in the causes of an error. */
function isQuota(error: unknown): boolean {
  return error instanceof Error && (error.name === 'QuotaExceededError' || isQuota(error.cause));
}

function recorderFor(broken: string | undefined): Promise<Recorder> {
  if (broken !== undefined) return Recorder.reopen(broken, store);
  return Promise.resolve(new Recorder({ name: 'Round', store }));
}

/** Places that are found by name are shown on the map, with the way there. */
function offerPlaces(map: MapSheet, places: PlaceService, way: WayDesk): void {
  find.places = places;
  find.addEventListener('choose', (event) => {
    const { at, text } = event.detail;
    map.pins.add({ id: 'found', group: 'found', ...at, text, open: true, colour: '#5b4a8a' });
    map.steer('free');
    map.look({ centre: at });
    way.offer(at, text);
  });
}

/** A tap on the map shows the address there, and offers the way, until the returned function is called. */
function tellAddresses(map: MapSheet, places: PlaceService, way: WayDesk): () => void {
  return addressOnTap(map, places, {
    onTapped: ({ at, answers, error }) => {
      const text = error?.userText ?? (answers === undefined ? 'Looking up the place…' : answerText(answers));
      write('tapped', `${positionText(at)}: ${text}`);
      way.offer(at, answers === undefined ? positionText(at) : answerText(answers));
    },
  });
}

function closedIds(document: unknown): Set<string> {
  const { features } = document as { features: { id?: string; properties: { closed?: boolean } }[] };
  return new Set(features.filter((each) => each.properties.closed === true).map((each) => String(each.id)));
}
