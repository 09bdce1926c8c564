import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Command } from 'commander';
import pc from 'picocolors';
import {
  accuracyText,
  ageText,
  durationText,
  FenceWatch,
  lengthText,
  NoFixError,
  positionText,
  readGpx,
  Receiver,
  Recorder,
  speedText,
  dutyCycling,
  Trail,
  writeGpx,
  type Crossing,
} from 'aurelian-drift';
import { Camera, writeSvg, sheetScene } from 'aurelian-drift/map';
import type { RosterEvent } from 'aurelian-drift/presence';
import { reportPage } from 'aurelian-drift/report';
import { journey, SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';
import { watchTrail } from './crossings.js';
import { creditOf } from './demo.js';
import { readClosedFences, readFences, readGround, readRoute } from './files.js';
import { crossingJson, printJson, summaryJson } from './json.js';
import { pngOf } from './picture.js';
import { reportFont } from './report-font.js';
import { CROSSING_HEAD, PLAIN_WORDS, clockText, crossingRow, summaryRows, table } from './tables.js';
import { shareWithHut } from './tour-party.js';

const SEED = 7;
/** Stops of the warden to log what flies: mean metres between them, and mean seconds. */
const RESTS = { every: 1100, for: 420 };

export function tourCommand(): Command {
  return new Command('tour')
    .description(
      'run the whole job on the demo island, step by step: ask, fix, follow, record, fences, share, map',
    )
    .option('--into <folder>', 'folder for the files', 'tour')
    .option('--json', 'print only the result, as one JSON value')
    .action(async ({ into, json = false }: { into: string; json?: boolean }) => {
      const report = json ? () => {} : (text: string) => void process.stdout.write(`${text}\n`);
      const step = (title: string) => report(`\n${pc.bold(title)}`);
      await mkdir(into, { recursive: true });
      const [ground, fences, closed, route] = await Promise.all([
        readGround('demo'),
        readFences('demo'),
        readClosedFences('demo'),
        readRoute('demo'),
      ]);

      report(
        'A warden of Vanesk, an island that does not exist, walks a round. The device is a pretend one,',
      );
      report('its hour passes in a moment, and everything after the device is the real library.');

      step('1  Ask');
      const clock = new VirtualClock();
      const device = new SimulatedDevice({
        route,
        clock,
        seed: SEED,
        rests: RESTS,
        answer: 'refuse',
        thinking: 4,
        afterwards: 'end',
      });
      const receiver = new Receiver({
        source: device,
        clock,
        purpose: 'Show where you are on the round, and record it.',
      });
      report(`   The app says why: “${receiver.purpose}”`);
      const refusal = await clock.settle(receiver.fix().catch((error: unknown) => error));
      if (!(refusal instanceof NoFixError))
        throw new Error('the pretend user refused, and yet there is a fix');
      report(
        `   The user thinks for 4 s and refuses. On the screen: “${refusal.userText} ${refusal.remedy.text}”`,
      );
      device.answer = 'grant';
      const access = await clock.settle(receiver.ask());
      report(
        `   Asked again, the user allows it: permission ${access.permission}, level ${access.level}, ` +
          `${device.prompts} prompts in all.`,
      );

      step('2  One fix');
      const fix = await clock.settle(receiver.fix());
      report(
        `   ${positionText(fix)}  ${accuracyText(fix.accuracy)}  ` +
          `${ageText(receiver.lastFix()?.age ?? 0)}  (${fix.origin})`,
      );

      step('3  Follow and record, with the sections as fences');
      const watch = new FenceWatch(fences);
      const recorder = new Recorder({ name: `${route.name ?? 'Round'}, 14 May 2026` });
      const crossings: Crossing[] = [];
      const follow = receiver.follow({
        dutyCycling: dutyCycling({ nearestEdge: (at) => watch.nearestEdge(at) }),
      });
      const takeBack = shareWithHut(follow, clock);
      const began = clock.now();
      recorder.start(follow);
      follow.onFix((each) => void crossings.push(...watch.take(each)));
      await clock.settle(follow.outcome);
      const trail = await clock.settle(recorder.finish());
      const seen = await takeBack();
      const { receiverOn, fine, rough } = receiver.usage;
      const whole = (clock.now() - began) / 1000;
      report(
        `   ${follow.passed} fixes in ${durationText(trail.summary().duration ?? 0)}; the receiver is ` +
          `${receiver.receiving ? 'still on' : 'off again'}.`,
      );
      report(
        `   It was on for ${durationText(receiverOn)}, ${Math.round((100 * receiverOn) / whole)} % of ` +
          `the time (fine ${durationText(fine)}, rough ${durationText(rough)}): off at rest, with no edge ` +
          `near.`,
      );
      report(indented(table(crossings.map(crossingRow), CROSSING_HEAD, [3, 4])));

      step('4  The trail');
      const summary = trail.summary();
      report(indented(table(summaryRows(summary, PLAIN_WORDS))));
      const truth = Trail.from(
        Array.from(
          journey(route, { seed: SEED, reception: 'exact', rests: RESTS }),
          (moment) => moment.truth,
        ),
      ).summary();
      const off = (100 * (summary.distance - truth.distance)) / truth.distance;
      report(
        `   The true way was ${lengthText(truth.distance)} at ${speedText(truth.averageSpeed ?? 0)}: ` +
          `the distance is off by ${off.toFixed(1)} %,`,
      );
      report(
        `   a plain sum from fix to fix by ` +
          `${((100 * (summary.rawDistance - truth.distance)) / truth.distance).toFixed(1)} %.`,
      );

      step('5  Share');
      for (const sentence of seen.terms) report(`   ${sentence}`);
      report(indented(table(seen.events.map(eventRow), ['UTC', 'the hut saw', 'place'])));
      report(`   The broker keeps ${seen.kept === 0 ? 'nothing' : `${seen.kept} messages`} of it.`);

      step('6  Files');
      const paths = {
        trail: join(into, 'trail.gpx'),
        crossings: join(into, 'crossings.json'),
        svg: join(into, 'map.svg'),
        png: join(into, 'map.png'),
        report: join(into, 'report.html'),
      };
      await writeFile(paths.trail, writeGpx({ trails: [trail] }));
      await writeFile(paths.crossings, `${JSON.stringify(crossings.map(crossingJson), undefined, 2)}\n`);
      const camera = new Camera({ centre: fix, zoom: 15, width: 1280, height: 800 }).framing(
        trail.bounds() ?? [0, 0, 0, 0],
        110,
      );
      const last = trail.at(-1);
      const scene = sheetScene(camera, {
        layers: [
          { kind: 'ground', ground },
          {
            kind: 'fences',
            fences,
            paint: {
              inside: watch.inside,
              toneOf: (fence) => (closed.has(fence.id) ? 'closed' : 'ordinary'),
            },
          },
          { kind: 'trail', trail },
        ],
        ...(last !== undefined && { fix: last }),
        margin: { title: trail.name ?? 'Round', credit: creditOf('demo') },
      });
      const svg = writeSvg(scene);
      await writeFile(paths.svg, svg);
      await writeFile(paths.png, await pngOf(svg));
      const page = reportPage(
        { trails: [trail], fences, closed, ground, credit: creditOf('demo') },
        { font: await reportFont() },
      );
      await writeFile(paths.report, page);
      const [again] = readGpx(await readFile(paths.trail, 'utf8'), { source: paths.trail }).trails;
      const same = again !== undefined && JSON.stringify([...again]) === JSON.stringify([...trail]);
      const reported = again === undefined ? 0 : watchTrail(again, fences).crossings.length;
      report(
        `   ${paths.trail}       ${trail.length} fixes; read back ${same ? 'the same to the last digit' : 'DIFFERENT'}`,
      );
      report(`   ${paths.crossings}  ${crossings.length} crossings; the file’s own trail gives ${reported}`);
      report(`   ${paths.svg}, ${paths.png}`);
      report(`   ${paths.report}     one page with map, figures, profiles, splits and crossings`);
      if (json)
        printJson({
          files: paths,
          summary: summaryJson(summary, trail.name),
          crossings: crossings.length,
          seenByHut: seen.events.map(({ kind }) => kind),
          readBackSame: same,
        });
      if (!same || reported !== crossings.length)
        throw new Error('what was written is not what was recorded');
    });
}

function eventRow({ kind, member: { name, since, place } }: RosterEvent): string[] {
  return [clockText(since), `${name} ${kind}`, place === undefined ? '' : positionText(place)];
}

function indented(text: string): string {
  return text.trimEnd().replaceAll(/^/gm, '   ');
}
