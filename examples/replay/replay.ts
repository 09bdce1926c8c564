import {
  InputError,
  accuracyText,
  crossingsOf,
  durationText,
  fencesFrom,
  lengthText,
  positionText,
  smoothTrail,
  speedText,
  type Crossing,
  type Fence,
  type Fix,
  type Line,
  type TrackDocument,
  type Trail,
} from 'aurelian-drift';
import { MapSheet, type TrailPath } from 'aurelian-drift/map';
import { saveTracks } from 'aurelian-drift/page';
import { load } from '../shared/island.js';
import { offerOwnMap, showGround } from '../shared/own-map.js';
import { button, element, field, piece, pressable, write } from '../shared/page.js';
import { lastUpTo } from './last-up-to.js';
import { fromDemo, fromFile, fromRound } from './open-trail.js';
import { Profiles, type Over } from './profiles.js';

/** A trail is played in about this many seconds, however long it took. */
const PLAYED_IN = 40;
const select = (id: string) => element(id) as HTMLSelectElement;
const clockText = (time: number) => new Date(time).toLocaleTimeString('en-GB');

let map: MapSheet | undefined;
let trails: readonly Trail[] = [];
let shown: { readonly trail: Trail; readonly smoothed: Trail; readonly start: number } | undefined;
let profiles: Profiles | undefined;
let fences: readonly Fence[] = [];
let crossings: readonly Crossing[] = [];
let playing: number | undefined;

offerOwnMap(() => {
  if (map !== undefined) showGround(map, shown?.trail.at(0));
});
for (const id of ['file', 'file-again'])
  field(id).addEventListener('change', () => void openFile(field(id).files?.[0]));
button('demo').addEventListener('click', () => void open(fromDemo()));
const kept = new URLSearchParams(location.search).get('trail');
if (kept !== null) void open(fromRound(kept));

document.addEventListener('dragover', (event) => {
  event.preventDefault();
  document.body.classList.add('dropping');
});
document.addEventListener('dragleave', () => document.body.classList.remove('dropping'));
document.addEventListener('drop', (event) => {
  event.preventDefault();
  document.body.classList.remove('dropping');
  void openFile(event.dataTransfer?.files[0]);
});

async function openFile(file: File | undefined): Promise<void> {
  if (file !== undefined) await open(fromFile(file), file.name);
}

/** Shows what was read; a file that cannot be read is told, and what was shown stays. */
async function open(reading: Promise<TrackDocument>, source = 'the trail'): Promise<void> {
  try {
    const document = await reading;
    trails = document.trails.filter(({ length }) => length > 0);
    const [line] = [...document.lines, ...document.routes];
    if (trails.length === 0 && line === undefined)
      throw new InputError('nothing-inside', 'there is no trail and no line in it', { source });
    tell('');
    write('notes', notesText(document));
    element('none').hidden = true;
    element('before').hidden = true;
    element('another').hidden = false;
    element('which-part').hidden = trails.length < 2;
    const names = trails.map(({ name }, i) => new Option(name ?? `Trail ${i + 1}`, String(i)));
    select('which').replaceChildren(...names);
    if (fences.length === 0) fences = fencesFrom(await load('sections'));
    if (trails[0] === undefined) showLine(line as Line);
    else show(trails[0]);
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    tell(error.message);
  }
}

/** Told where it is seen: at the start, or beside the trail that stays open. */
function tell(trouble: string): void {
  write(shown === undefined ? 'trouble' : 'notes', trouble);
}

function notesText({ waypoints, notes }: TrackDocument): string {
  const parts = notes.slice(0, 3).map(({ text }) => text);
  const more = notes.length > 3 ? [`and ${notes.length - 3} notes more`] : [];
  const points = waypoints.length === 0 ? [] : [`${waypoints.length} waypoints`];
  return [...points, ...parts, ...more].join('; ');
}

function sheet(place: Fix | undefined): MapSheet {
  map?.close();
  map = new MapSheet({
    container: element('map'),
    label: 'Map of the trail',
    theme: 'auto',
    controls: false,
    // The kite is never stale: its time is the time that is looked at.
    now: () => shownTime(),
  });
  showGround(map, place);
  return map;
}

/** A line without times: its shape and length are known, and nothing else. */
function showLine(line: Line): void {
  stop();
  shown = undefined;
  const points = line.parts.flat();
  const made = sheet(undefined);
  made.layers.put('line', { kind: 'line', line });
  made.frame(points);
  for (const id of ['profiles', 'now-part', 'figures-part', 'crossings-part']) element(id).hidden = true;
  write('notes', 'A line without times: there is nothing to play. It is shown on the map.');
}

function show(trail: Trail): void {
  stop();
  const smoothed = smoothTrail(trail);
  shown = { trail, smoothed, start: trail.number(0, 'time') };
  // Before the map, which then has its final size.
  for (const id of ['profiles', 'now-part', 'figures-part', 'crossings-part']) element(id).hidden = false;
  const made = sheet(trail.at(0));
  drawPath();
  field('time').max = String(
    Math.max(1, Math.round((trail.number(trail.length - 1, 'time') - shown.start) / 1000)),
  );
  writeFigures(trail);
  writeSaves(trail, smoothed);
  watchFences();
  drawProfiles();
  goTo(0);
  made.steer('free');
  made.frame(trail);
}

function drawPath(): void {
  if (shown !== undefined) map?.showTrails([shown.trail], { path: select('path').value as TrailPath });
}

function drawProfiles(): void {
  profiles?.close();
  if (shown === undefined) return;
  profiles = new Profiles({
    trail: shown.trail,
    smoothed: shown.smoothed,
    over: select('over').value as Over,
    onTime: (elapsed) => {
      stop();
      goTo(elapsed, false);
    },
  });
}

/** The crossings of the trail, found anew for other fences. */
function watchFences(): void {
  if (shown === undefined) return;
  crossings = crossingsOf(shown.trail, fences);
  const { start } = shown;
  element('crossings').replaceChildren(
    ...crossings.map(({ kind, name, time, duration }) => {
      const row = piece('li', '');
      const words = { initial: 'in', enter: 'into', exit: 'out of', linger: 'still in', pass: 'through' };
      const text = `${kind === 'closed' ? '' : words[kind]} ${name}`;
      const act = pressable('', () => {
        stop();
        goTo((time - start) / 1000);
      });
      act.append(
        piece('span', clockText(time)),
        piece('span', text),
        piece('span', duration === undefined ? '' : durationText(duration)),
      );
      row.append(act);
      return row;
    }),
  );
}

/** The time that is looked at, milliseconds since 1970. */
function shownTime(): number {
  return (shown?.start ?? Date.now()) + field('time').valueAsNumber * 1000;
}

/** Looks at a time: on the map, in the profiles, in the book. */
function goTo(elapsed: number, withProfiles = true): void {
  if (shown === undefined || map === undefined) return;
  const { trail, start } = shown;
  field('time').value = String(Math.round(elapsed));
  const time = start + elapsed * 1000;
  const fix = trail.at(lastUpTo(time, trail.length, (i) => trail.number(i, 'time')));
  if (fix === undefined) return;
  map.showFix(fix);
  write('clock', `${clockText(time)}, ${durationText(elapsed)}`);
  field('time').ariaValueText = `${clockText(time)}, after ${durationText(elapsed)}`;
  const point = profiles?.at(elapsed);
  if (withProfiles) profiles?.point(elapsed);
  write('position', positionText(fix));
  write('accuracy', accuracyText(fix.accuracy) || '–');
  write('speed-now', point?.speed === undefined ? '–' : speedText(point.speed));
  const height = point?.smoothAltitude ?? fix.altitude;
  write('height-now', height === undefined ? '–' : `${Math.round(height)} m`);
  write('along', point === undefined ? '–' : lengthText(point.distance));
  showFences(time);
}

function showFences(time: number): void {
  const inside = new Set<string>();
  let last = -1;
  for (const [i, { kind, fence, time: when }] of crossings.entries()) {
    if (when > time) break;
    last = i;
    if (kind === 'enter' || kind === 'initial') inside.add(fence);
    if (kind === 'exit') inside.delete(fence);
  }
  map?.showFences(fences, { inside });
  const names = fences.filter(({ id }) => inside.has(id)).map(({ name }) => name);
  write('inside', names.length === 0 ? 'In none of the fences.' : `In ${names.join(', ')}.`);
  [...element('crossings').children].forEach((row, i) => {
    const act = row.firstElementChild as HTMLElement;
    if (i === last) act.ariaCurrent = 'true';
    else act.removeAttribute('aria-current');
  });
}

function writeFigures(trail: Trail): void {
  const { distance, duration, moving, averageSpeed, climb, descent, fixes } = trail.summary();
  const rows: [string, string | undefined][] = [
    ['Distance', lengthText(distance)],
    ['Time', duration === undefined ? undefined : durationText(duration)],
    ['Moving', moving === undefined ? undefined : durationText(moving)],
    ['Average', averageSpeed === undefined ? undefined : speedText(averageSpeed)],
    ['Climb', climb === undefined ? undefined : lengthText(climb)],
    ['Descent', descent === undefined ? undefined : lengthText(descent)],
    ['Fixes', String(fixes)],
  ];
  element('figures').replaceChildren(
    ...rows.map(([name, text = 'unknown']) => {
      const row = piece('div', '');
      row.append(piece('dt', name), piece('dd', text));
      return row;
    }),
  );
}

function writeSaves(trail: Trail, smoothed: Trail): void {
  const name = (trail.name ?? 'trail').toLowerCase().replace(/\W+/g, '-');
  element('saves').replaceChildren(
    pressable('Save as GPX', () => saveTracks(`${name}.gpx`, { trails: [trail] })),
    pressable('Save smoothed', () => saveTracks(`${name}-smoothed.gpx`, { trails: [smoothed] })),
  );
}

function play(): void {
  const length = Number(field('time').max);
  let from = performance.now();
  const pace = length / PLAYED_IN;
  if (field('time').valueAsNumber >= length) field('time').value = '0';
  let elapsed = field('time').valueAsNumber;
  const step = (now: number) => {
    elapsed = Math.min(length, elapsed + ((now - from) / 1000) * pace);
    from = now;
    goTo(elapsed);
    if (elapsed >= length) stop();
    else playing = requestAnimationFrame(step);
  };
  playing = requestAnimationFrame(step);
  writePlay();
}

function stop(): void {
  if (playing !== undefined) cancelAnimationFrame(playing);
  playing = undefined;
  writePlay();
}

function writePlay(): void {
  button('play').ariaPressed = String(playing !== undefined);
  write('play', playing === undefined ? 'Play' : 'Stop');
}

button('play').addEventListener('click', () => (playing === undefined ? play() : stop()));
field('time').addEventListener('input', () => {
  stop();
  goTo(field('time').valueAsNumber);
});
select('which').addEventListener('change', () => {
  const trail = trails[Number(select('which').value)];
  if (trail !== undefined) show(trail);
});
select('path').addEventListener('change', drawPath);
select('over').addEventListener('change', () => {
  drawProfiles();
  goTo(field('time').valueAsNumber);
});
field('fences').addEventListener('change', () => {
  const [file] = field('fences').files ?? [];
  void file?.text().then((text) => {
    try {
      fences = fencesFrom(JSON.parse(text));
      write('fences-trouble', '');
      watchFences();
      goTo(field('time').valueAsNumber);
    } catch (error) {
      if (!(error instanceof InputError || error instanceof SyntaxError)) throw error;
      write('fences-trouble', error.message);
    }
  });
});
matchMedia('(prefers-color-scheme: dark)').addEventListener('change', drawProfiles);
