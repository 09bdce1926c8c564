import { Command, Option } from 'commander';
import {
  accuracyText,
  courseText,
  durationText,
  FenceWatch,
  lengthText,
  memoryStore,
  PlanWatch,
  positionText,
  Receiver,
  Recorder,
  speedText,
  type Crossing,
  type Fix,
} from 'aurelian-drift';
import { VirtualClock } from 'aurelian-drift/testing';
import { gpxFileWriter } from '../files/gpx-file.js';
import { asked } from './asked.js';
import { readFences } from './files.js';
import { sourceName } from '../files/text-file.js';
import { crossingJson, fixJson, printJson } from './json.js';
import { FencePanel } from './fence-panel.js';
import { feedOf } from './feeds.js';
import { Misuse } from './misuse.js';
import { NoteReporter, reportTooSmall } from './notes.js';
import { durationArgument, lengthArgument, tempoArgument } from './quantities.js';
import { planEventJson, planLine, progressRows, readPlan } from './plans.js';
import { clockText, printable, table, whenText } from './tables.js';

interface Options {
  every?: number;
  beyond?: number;
  accuracy?: number;
  record?: string;
  fences?: string;
  plan?: string;
  view?: 'panel' | 'lines';
  tempo?: number;
  json?: boolean;
}

export function followCommand(): Command {
  return new Command('follow')
    .description('print fixes as they arrive')
    .argument(
      '<input>',
      'a file of a trail; - for standard input and tcp://HOST:PORT, also live NMEA 0183; demo or ' +
        'demo:NAME for a pretend walk on the island',
    )
    .option('--every <duration>', 'minimum time since the last fix shown', durationArgument)
    .option('--beyond <length>', 'minimum distance from the last one', lengthArgument)
    .option('--accuracy <length>', 'leave out fixes with a larger 95 % radius', lengthArgument)
    .option('--record <file>', 'record the trail as GPX, complete after every fix')
    .option(
      '--fences <file>',
      'also report crossings of the fences in this GeoJSON file; demo for the sections of the island',
    )
    .option('--plan <file>', 'also report progress on a plan: a file of a route, FILE:NAME, or demo:NAME')
    .addOption(
      new Option(
        '--view <view>',
        'with --fences: a panel of the fences around the user, or lines only (default: a panel on a terminal)',
      ).choices(['panel', 'lines']),
    )
    .option('--tempo <tempo>', 'real, max, or a factor of real time (default: max for files)', tempoArgument)
    .option('--json', 'print one JSON value per fix or crossing')
    .action(async (input: string, options: Options) => {
      const { every, beyond, accuracy, record, json = false } = options;
      if (record !== undefined && !/\.gpx$/i.test(record))
        throw new Misuse(`${record}: a trail is recorded as .gpx`);
      if (options.view !== undefined && options.fences === undefined)
        throw new Misuse('--view goes with --fences');
      if (options.view === 'panel' && json) throw new Misuse('--json has no panel');
      const notes = new NoteReporter(sourceName(input));
      const { source, clock, label } = await feedOf(input, options.tempo, (note) => notes.report(note));
      const fences = options.fences === undefined ? undefined : await readFences(options.fences);
      const watch = fences && new FenceWatch(fences, { onTooSmall: reportTooSmall() });
      const plan = options.plan === undefined ? undefined : await readPlan(options.plan, undefined);
      const planned = plan && new PlanWatch(plan);
      const view = options.view ?? (process.stdout.isTTY && !json ? 'panel' : 'lines');
      const print = (text: string) => void process.stdout.write(text);
      const panel = watch && view === 'panel' ? new FencePanel(watch, fences, print) : undefined;
      const report = (line: string) => (panel === undefined ? print(`${line}\n`) : panel.line(line));
      const receiver = new Receiver({
        source,
        clock,
        purpose: 'Show the fixes of a recording or a pretend walk.',
      });
      const recorder = record === undefined ? undefined : await recorderTo(record, label);
      const follow = receiver.follow({
        ...(every !== undefined && { every }),
        ...(beyond !== undefined && { beyond }),
      });
      recorder?.start(follow);
      follow.onEvent(({ kind }) => {
        if (kind !== 'gap') return;
        watch?.breakSegment();
        planned?.breakSegment();
      });
      // A failure is reported at the end, by the thrown error.
      follow.onEvent((event) => event.kind === 'failed' && event.error);
      // Fences take every fix, also those that are not shown.
      follow.onFix(
        (fix) => {
          const crossings = watch?.take(fix) ?? [];
          for (const crossing of crossings)
            if (json) printJson(crossingJson(crossing));
            else report(crossingLine(crossing));
          panel?.draw(fix, fixLine(fix), crossings);
          for (const event of planned?.take(fix) ?? [])
            if (json) printJson(planEventJson(event));
            else report(planLine(event));
        },
        { all: true },
      );
      follow.onFix((fix) => {
        if (accuracy !== undefined && (fix.accuracy ?? Infinity) > accuracy) return;
        if (json) printJson(fixJson(fix));
        else if (panel === undefined) report(fixLine(fix));
      });
      void asked().then(() => follow.stop());
      await (clock instanceof VirtualClock ? clock.settle(follow.outcome) : follow.outcome);
      notes.end();
      if (plan !== undefined && planned?.progress !== undefined && !json)
        process.stdout.write(`\n${table(progressRows({ plan, progress: planned.progress }))}`);
      if (follow.error !== undefined)
        throw follow.error.kind === 'unknown' ? follow.error.cause : follow.error;
      if (recorder === undefined) return;
      const trail = await recorder.finish().catch((error: unknown) => {
        const all = recorder.trail.length;
        process.stderr.write(
          `${record}: of ${all} fixes at least ${recorder.kept} are in the file, which can be read\n`,
        );
        throw error;
      });
      const { distance, duration = 0 } = trail.summary();
      process.stderr.write(
        `${record}: ${trail.length} fixes, ${lengthText(distance)} in ${durationText(duration)}\n`,
      );
    });
}

/** A recorder for the given file, which is made at once: an existing name is reported before the follow begins. */
async function recorderTo(path: string, name: string): Promise<Recorder> {
  const writer = await gpxFileWriter(path, { name });
  const recorder = new Recorder({ name, store: { ...memoryStore(), begin: () => Promise.resolve(writer) } });
  let failed = false;
  recorder.$error.listen((error) => {
    if (error !== undefined && !failed)
      process.stderr.write(
        `${path}: ${error.message}; ${recorder.kept} of ${recorder.trail.length} fixes are in the file ` +
          `for certain, the others wait in memory\n`,
      );
    if (error === undefined) process.stderr.write(`${path}: all fixes are in the file again\n`);
    failed = error !== undefined;
  });
  return recorder;
}

function fixLine(fix: Fix): string {
  const speed = fix.speed === undefined ? '' : speedText(fix.speed).padStart(10);
  const course = fix.course === undefined ? '' : courseText(fix.course);
  return (
    `${clockText(fix.time)}  ${positionText(fix)}  ` +
    `${accuracyText(fix.accuracy).padStart(6)}${speed}  ${course}`
  ).trimEnd();
}

function crossingLine(crossing: Crossing): string {
  const { kind, name, duration } = crossing;
  return (
    `${whenText(crossing)}  -- ${kind} ` +
    `${printable(name)}${duration === undefined ? '' : ` after ${durationText(duration)}`}`
  );
}
