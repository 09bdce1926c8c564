import {
  FenceWatch,
  NoFixError,
  Receiver,
  Recorder,
  accuracyText,
  ageText,
  browserSource,
  courseText,
  durationText,
  fencesFrom,
  geoJsonTrailsFrom,
  lengthText,
  positionText,
  speedText,
  systemClock,
  writeGpx,
  type Clock,
  type Crossing,
  type Fence,
  type Fix,
  type Source,
} from 'aurelian-drift';
import { MapSheet } from 'aurelian-drift/map';
import { SimulatedDevice, scaledClock } from 'aurelian-drift/testing';
import { CREDIT, groundAt, load } from '../shared/island.js';

const element = (id: string) => document.getElementById(id) as HTMLElement;
const button = (id: string) => element(id) as HTMLButtonElement;
const write = (id: string, text: string) => (element(id).textContent = text);

const PURPOSE =
  'Shows you on the round, keeps your trail, and notes the sections you walk through. All of it stays on this device.';
/** The pretend walk, as many times as fast as real: an hour's round in three minutes, or as ?tempo= says. */
const TEMPO = Number(new URLSearchParams(location.search).get('tempo') ?? 20);

write('purpose', PURPOSE);
button('start').addEventListener('click', () => void begin(browserSource(), systemClock));
button('use-pretend').addEventListener('click', () => void beginPretend());

async function beginPretend(): Promise<void> {
  const { lines } = geoJsonTrailsFrom(await load('rounds'));
  const route = lines.find((line) => line.name === 'Dune Round');
  if (route === undefined) throw new Error('the island has lost its Dune Round');
  const clock = scaledClock(TEMPO, Date.now());
  const times = TEMPO === 1 ? '' : ` ${TEMPO} times as fast as a walk`;
  write('pretend', `Pretend device: it walks the Dune Round${times}. This is not where you are.`);
  element('pretend').hidden = false;
  await begin(new SimulatedDevice({ route, clock, seed: 7, warmUp: 2 }), clock);
}

/** From the press to the first fix, and on from there; a failure says what helps and leaves both ways open. */
async function begin(source: Source, clock: Clock): Promise<void> {
  for (const id of ['start', 'use-pretend']) button(id).disabled = true;
  element('note').hidden = true;
  const receiver = new Receiver({ source, clock, purpose: PURPOSE });
  const unwatch = receiver.$status.subscribe(({ state }) => {
    write(
      'waiting',
      state === 'asking'
        ? 'Waiting for your answer…'
        : state === 'waiting'
          ? 'Looking for your position…'
          : '',
    );
  });
  try {
    const first = await receiver.fix({ patience: 30 });
    await walk(receiver, clock, first);
  } catch (error) {
    if (!(error instanceof NoFixError)) throw error;
    element('pretend').hidden = true;
    write('what', error.userText);
    write('remedy', `${error.remedy.text} Or let a pretend device walk the round.`);
    element('note').hidden = false;
    for (const id of ['start', 'use-pretend']) button(id).disabled = false;
  } finally {
    unwatch();
    write('waiting', '');
  }
}

async function walk(receiver: Receiver, clock: Clock, first: Fix): Promise<void> {
  const ground = await groundAt(first);
  const document = await load('sections');
  const fences = fencesFrom(document);
  const closed = closedIds(document);
  const watch = new FenceWatch(fences);
  const recorder = new Recorder({ name: 'Round' });
  const follow = receiver.follow();
  recorder.start(follow);

  element('before').hidden = true;
  const map = new MapSheet({
    container: element('map'),
    credit: ground === undefined ? 'No background for this place' : CREDIT,
    label: 'Map of the round',
    now: () => clock.now(),
    // On a hurried clock a stutter of the page is minutes long.
    staleAfter: clock === systemClock ? 15 : 15 * TEMPO,
    ...(ground && { ground }),
  });
  const toneOf = (fence: Fence) => (closed.has(fence.id) ? 'closed' : 'ordinary');
  map.showFences(fences, { toneOf });
  map.showTrails([recorder.trail]);
  map.showFix(first);

  follow.tap((fix) => {
    const crossings = watch.advance(fix);
    for (const crossing of crossings) log(crossing, closed.has(crossing.fence));
    if (crossings.length > 0) {
      map.showFences(fences, { toneOf, inside: watch.inside });
      const names = fences.filter((fence) => watch.inside.has(fence.id)).map((fence) => fence.name);
      write('inside', names.length === 0 ? 'Not in a section.' : `In ${names.join(', ')}.`);
    }
    map.showFix(fix);
    readOut(fix);
  });
  follow.onFailure((error) => {
    write('inside', `${error.userText} ${error.remedy.text}`);
    button('pause').disabled = true;
  });
  recorder.$summary.subscribe(({ distance, duration, averageSpeed, fixes }) => {
    write('distance', fixes === 0 ? '–' : lengthText(distance));
    write('duration', duration === undefined ? '–' : durationText(duration));
    write('average', averageSpeed === undefined ? '–' : speedText(averageSpeed));
    write('fixes', fixes === 0 ? '–' : String(fixes));
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

function readOut(fix: Fix): void {
  write('position', positionText(fix));
  write('accuracy', accuracyText(fix.accuracy) || '–');
  write('speed', fix.speed === undefined ? '–' : speedText(fix.speed));
  write('course', fix.course === undefined ? '–' : courseText(fix.course));
}

function log({ kind, name, time, stay }: Crossing, closed: boolean): void {
  const line = document.createElement('li');
  line.classList.toggle('closed', closed);
  const words = { initial: 'in', enter: 'into', exit: 'out of', pass: 'through' }[kind];
  const cells = [
    new Date(time).toLocaleTimeString('en-GB'),
    `${words} ${name}`,
    stay === undefined ? '' : durationText(stay),
  ];
  line.append(
    ...cells.map((text) => {
      const cell = document.createElement('span');
      cell.textContent = text;
      return cell;
    }),
  );
  element('log').prepend(line);
}

function closedIds(document: unknown): Set<string> {
  const { features } = document as { features: { id?: string; properties: { closed?: boolean } }[] };
  return new Set(features.filter((each) => each.properties.closed === true).map((each) => String(each.id)));
}
