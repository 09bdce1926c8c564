import { writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { distanceRows } from './distance.js';
import { crossingRows, fenceRows } from './fences.js';
import { gpxRow } from './gpx.js';
import { growthRows } from './growth.js';
import type { Row } from './measure.js';
import { mapRows } from './map.js';
import { memoryRow, smallTrailRow } from './memory.js';
import { partyRows } from './party.js';
import { placeRows } from './places.js';
import { recordingRow } from './recording.js';
import { filterRows } from './filter.js';
import { streamingRows } from './streaming.js';
import { thinRow } from './thin.js';
import { dutyCyclingRows } from './duty-cycling.js';
import { weightRows } from './weight.js';

/** Measures every row, prints the table, and updates docs/benchmarks.md on request. */
export async function measureAll(write: boolean): Promise<void> {
  const rows: Row[] = [
    smallTrailRow(), // before there is much to clear away
    memoryRow(),
    ...distanceRows(),
    gpxRow(),
    ...growthRows(),
    ...streamingRows(),
    ...filterRows(),
    ...(await dutyCyclingRows()),
    ...fenceRows(),
    ...crossingRows(),
    thinRow(),
    await recordingRow(),
    ...(await partyRows()),
    ...placeRows(),
    ...(await mapRows()),
    ...(await weightRows()),
  ];
  const table = [
    '| What | Ours | Beside | Ratio | Goal | Met |',
    '| --- | --- | --- | --- | --- | --- |',
    ...rows.map(
      (row) =>
        `| ${row.what} | ${row.ours} | ${row.baseline} | ${row.ratio} | ${row.goal} | ${row.met ? 'yes' : 'no'} |`,
    ),
  ].join('\n');
  console.log(table);

  if (write) {
    const page = `# Benchmarks

Printed by \`npm run bench\`; renewed by \`npm run bench -- --write\`. Each figure stands beside a baseline of the same run,
as a ratio: the ratio is what can be compared from machine to machine.

${table}

Measured with Node ${process.versions.node} on ${cpus().length} cores (${cpus()[0]?.model.trim() ?? 'unknown'}).

- **distance** is compared with the exact solution of geographiclib-geodesic, on lines of every latitude and bearing; the
  errors are the worst of 100 000 lines each.
- **reading GPX** makes a checked trail of the text; the baseline is the XML parser that it stands on, with a handler that
  only counts the points.
- **10 and 100 times as much** is how the time grows when the input does: about tenfold each time for a reader that is linear. Some of the inputs
  are made to be slow to read, and are refused.
- **memory** of a command is the most that its process held, on a file that it reads and writes as it goes.
- **steadying** is medians of root-mean-square distances from the truth, on walks that nothing was tuned on; the reference is a filter, and a smoother,
  of the same kind, told wander, memory and white noise as they were made, and refusing nothing. [The true path](true-path.md) has the table.
- **distance** of a walk is that of the summary, beside the true way while fixes came; **standing** is the most of thirty times ten minutes.
- **receiver-on time** is the pretend device's, with duty cycling; the trail is beside the way that was truly walked.
- **crossings** are medians of walks past circles, outlines and corridors strewn about the way, on seeds that nothing was tuned on; grazes shallower
  than twice the 95 % radius, and what no fix saw, are left out. [Fences](fences.md) has the table.
- **fences** are outlines of 8 to 19 corners and circles; the plain way asks a tree for boxes and goes round each outline, at every fix. Only
  the watch tells where and when an edge was cut.
- **a map frame** is script and raster together, forced, in Chromium without a graphics card, at 1280 by 640 pixels: a walk of
  1 000 000 fixes on 100 km², 5000 fences and the island below. \`npm run frames\` serves the page, and bench/frames/?show
  on it draws the times as it pans.
- **thinning** keeps every fix that is left out within 5 m of the line, on the ground; beside a planar thinner by the same
  method, given the same points in metres.
- **recording** is a fix taken, summed up and kept by a store in memory.
- **places** are 1 000 000 made-up addresses in 2500 localities. The index is built from them as objects, for places and for
  words; the nearest is asked for near random addresses and told in words; what is typed grows letter by letter, from a
  house number on, with one letter left out in every third text.
- **a party** is fifty connections that speak for two hundred members each, from a process of their own, at QoS 1 with each place retained; one watcher hears all. The baseline is the
  bare client, publishing and hearing the same bytes. A guard fed from memory checks, filters, watches and keeps each place as it does when a broker brings it.
  With its memory on disk it stores what it remembers of a member before the next place; the baseline is LevelDB, writing as much.
- **page weight** is what a page loads before it can do the job, compressed with brotli: fences written in code, and then with those of a file and
  a trail written as one, which \`import('aurelian-drift/formats')\` can load later.
- **memory** is what the heap and its buffers grow by, after a collection.
`;
    writeFileSync(new URL('../docs/benchmarks.md', import.meta.url), page);
  }
}
