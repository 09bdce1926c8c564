import { Command } from 'commander';
import type { Crossing } from '../core/fence/crossing.js';
import { FenceWatch } from '../core/fence/watch.js';
import type { Fix } from '../core/fix/fix.js';
import {
  accuracyText,
  courseText,
  durationText,
  lengthText,
  positionText,
  speedText,
} from '../core/fix/words.js';
import type { Trail } from '../core/trail/trail.js';
import { InputError } from '../core/check/input-error.js';
import { scaledClock, type Clock } from '../receiver/clock.js';
import { Receiver } from '../receiver/receiver.js';
import type { Source } from '../receiver/source.js';
import { VirtualClock } from '../receiver/virtual-clock.js';
import { memoryStore } from '../recorder/memory-store.js';
import { Recorder } from '../recorder/recorder.js';
import type { TrailStore } from '../recorder/trail-store.js';
import { replaySource } from '../sources/replay.js';
import { SimulatedDevice } from '../sources/simulated-device.js';
import { gpxFileWriter } from '../files/gpx-file.js';
import { readFences, readRoute, readTrails } from './files.js';
import { crossingJson, fixJson, printJson } from './json.js';
import { Misuse } from './misuse.js';
import { durationArgument, lengthArgument, tempoArgument } from './quantities.js';
import { clockText, printable } from './tables.js';

interface Options {
  every?: number;
  beyond?: number;
  accuracy?: number;
  record?: string;
  fences?: string;
  tempo?: number;
  json?: boolean;
}

export function followCommand(): Command {
  return new Command('follow')
    .description('fixes as they come')
    .argument(
      '<input>',
      'GPX or GeoJSON; - for standard input; demo or demo:NAME for a pretend walk on the island',
    )
    .option('--every <duration>', 'at least so long since the last fix shown', durationArgument)
    .option('--beyond <length>', 'and at least so far from it', lengthArgument)
    .option('--accuracy <length>', 'leave out fixes that are coarser', lengthArgument)
    .option('--record <file>', 'write the trail as GPX, whole after every fix')
    .option('--fences <file>', 'tell crossings too; demo for the island’s sections')
    .option(
      '--tempo <tempo>',
      'real, max, or how many times as fast; files at max unless told',
      tempoArgument,
    )
    .option('--json', 'one JSON value a fix or crossing')
    .action(async (input: string, options: Options) => {
      if (input.startsWith('tcp://'))
        throw new Misuse('tcp:// streams are not in this version; give a file, - or demo');
      const { every, beyond, accuracy, record, json = false } = options;
      if (record !== undefined && !/\.gpx$/i.test(record))
        throw new Misuse(`${record}: a trail is recorded as .gpx`);
      const demo = /^demo(:|$)/.test(input);
      const { source, clock, label } = demo
        ? await demoSource(input, options.tempo ?? 1)
        : await fileSource(input, options.tempo ?? Infinity);
      const watch =
        options.fences === undefined ? undefined : new FenceWatch(await readFences(options.fences));
      const receiver = new Receiver({
        source,
        clock,
        purpose: 'Show the fixes of a recording or a pretend walk.',
      });
      const recorder =
        record === undefined ? undefined : new Recorder({ name: label, store: fileStore(record) });
      const follow = receiver.follow({
        ...(every !== undefined && { every }),
        ...(beyond !== undefined && { beyond }),
      });
      recorder?.start(follow);
      follow.onEvent(({ kind }) => kind === 'gap' && watch?.breakSegment());
      follow.tap((fix) => {
        for (const crossing of watch?.advance(fix) ?? []) printCrossing(crossing, json);
        if (accuracy === undefined || (fix.accuracy ?? Infinity) <= accuracy) printFix(fix, json);
      });
      process.once('SIGINT', () => void follow.stop());
      await (clock instanceof VirtualClock ? clock.until(follow.over) : follow.over);
      if (follow.error !== undefined) throw follow.error;
      if (recorder === undefined) return;
      const trail = await recorder.finish();
      const { distance, duration = 0 } = trail.summary();
      process.stderr.write(
        `${record}: ${trail.length} fixes, ${lengthText(distance)} in ${durationText(duration)}\n`,
      );
    });
}

interface Feed {
  readonly source: Source;
  readonly clock: Clock;
  readonly label: string;
}

async function fileSource(path: string, tempo: number): Promise<Feed> {
  const trails = await readTrails(path);
  if (trails.length > 1) {
    const names = trails.map((trail) => trail.name ?? 'unnamed').join(', ');
    throw new InputError('bad-value', `it has ${trails.length} trails (${names}); a follow takes one`, {
      source: path,
    });
  }
  const trail = trails[0] as Trail;
  const clock = clockAt(tempo, trail.number(0, 'time'));
  return { source: replaySource(trail, clock), clock, label: trail.name ?? 'Replayed trail' };
}

async function demoSource(input: string, tempo: number): Promise<Feed> {
  const route = await readRoute(input);
  const clock = clockAt(tempo, tempo === 1 ? Date.now() : Date.UTC(2026, 4, 14, 8));
  const source = new SimulatedDevice({ route, clock, permission: 'granted', afterwards: 'end' });
  return { source, clock, label: route.name ?? 'Pretend walk' };
}

function clockAt(tempo: number, start: number): Clock {
  return tempo === Infinity ? new VirtualClock(start) : scaledClock(tempo, start);
}

/** A store of the one file that was named. */
function fileStore(path: string): TrailStore {
  return { ...memoryStore(), begin: (labels) => gpxFileWriter(path, labels) };
}

function printFix(fix: Fix, json: boolean): void {
  if (json) {
    printJson(fixJson(fix));
    return;
  }
  const speed = fix.speed === undefined ? '' : speedText(fix.speed).padStart(10);
  const course = fix.course === undefined ? '' : courseText(fix.course);
  const line = `${clockText(fix.time)}  ${positionText(fix)}  ${accuracyText(fix.accuracy).padStart(6)}${speed}  ${course}`;
  process.stdout.write(`${line.trimEnd()}\n`);
}

function printCrossing(crossing: Crossing, json: boolean): void {
  if (json) {
    printJson(crossingJson(crossing));
    return;
  }
  const stay = crossing.stay === undefined ? '' : ` after ${durationText(crossing.stay)}`;
  process.stdout.write(
    `${clockText(crossing.time)}  -- ${crossing.kind} ${printable(crossing.name)}${stay}\n`,
  );
}
