import { writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { climbRows } from './climb.js';
import { distanceRows } from './distance.js';
import { crossingRows, fenceRows } from './fences.js';
import { gpxRow } from './gpx.js';
import { growthRows } from './growth.js';
import type { Row } from './measure.js';
import { mapRows } from './map.js';
import { memoryRow, smallTrailRow } from './memory.js';
import { partyRows } from './party.js';
import { placeRows } from './places.js';
import { matchingRows, matchingSpeedRow } from './matching.js';
import { networkRows } from './network.js';
import { planRows } from './plans.js';
import { liveRows } from './live-figures.js';
import { receiverRows } from './receivers.js';
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
    ...receiverRows(),
    ...liveRows(),
    ...planRows(),
    ...networkRows(),
    ...matchingRows(),
    matchingSpeedRow(),
    ...climbRows(),
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

\`npm run bench\` prints this table, and \`npm run bench -- --write\` updates this page. Each figure is compared with
a baseline of the same run. The ratio of the two is comparable between machines.

${table}

Measured with Node ${process.versions.node} on ${cpus().length} cores (${cpus()[0]?.model.trim() ?? 'unknown'}).

- **distance** is compared with the exact solution of geographiclib-geodesic, on lines of every latitude and bearing.
  The errors are the largest of 100 000 lines each.
- **reading GPX** makes a checked trail of the text. The baseline is its XML parser alone, with a handler that only
  counts the points.
- **10 and 100 times as much** shows how the time grows with the input: about tenfold each time for a linear reader.
  Some of the inputs are made to be slow to read, and are refused.
- **memory** of a command is the peak memory of its process, on a file that it reads and writes as a stream.
- **smoothing** figures are medians of root-mean-square distances from the truth, on walks that were not used for
  tuning. The reference is a filter and a smoother of the same kind which know the true noise model (correlated error
  and white noise), and which reject no fix. [The true path](true-path.md) has the table.
- **distance** of a walk is that of the summary, compared with the true distance while fixes came. **standing** is the
  largest of thirty results of ten minutes each.
- **receiver-on time** is that of the pretend device with duty cycling. The trail is compared with the true way.
- **crossings** are medians of walks past random circles, outlines and corridors, on seeds that were not used for
  tuning. Grazes shallower than twice the 95 % radius, and visits without a fix, are left out. [Fences](fences.md) has
  the table.
- **fences** are outlines of 8 to 19 corners and circles. The baseline searches a tree of bounding boxes and tests each
  outline at every fix. Only the watch also reports where and when an edge was crossed.
- **a map frame** is script and raster together, forced, in Chromium without a graphics card, at 1280 by 640 pixels: a
  walk of 1 000 000 fixes on 100 km², 5000 fences and the island below. \`npm run frames\` serves the page;
  bench/frames/?show draws the frame times while it pans.
- **thinning** keeps every omitted fix within 5 m of the line, on the ground. The baseline is a planar thinner of the
  same method, given the same points in metres.
- **recording** is a fix that is taken, added to the summary, and kept by a store in memory.
- **places** are 1 000 000 made-up addresses in 2500 localities. The index is built from them as objects, for the
  nearest place and for words. The nearest queries are near random addresses and return a text. The typed queries grow
  letter by letter, from a house number on, with one letter missing in every third text.
- **a party** is fifty connections that publish for two hundred members each, from a separate process, at QoS 1 with
  each position retained. One watcher receives all. The baseline is the bare client with the same bytes. A guard fed
  from memory checks, filters, watches and stores each position as it does with a broker. With its memory on disk it
  stores the state of a member before it takes the next position; the baseline is LevelDB, which writes as much.
- **a network** is a crooked grid of lanes and main roads, some of one direction. It is prepared once: the order of its
  nodes and the costs of one kind of travel. The baseline is a plain search (E. Dijkstra, 1959) over the same lanes,
  with their costs laid out beforehand, and without a line or steps.
- **lanes** that were travelled are those of walks and rides of 3 to 6 km over a town of crooked lanes 60 m apart and
  more.
- **plans** are three laps, a line that crosses itself, and a line out and back; a detour of 60 m aside; and a line of
  1000 km.
- **page weight** is what a page loads before the app can work, compressed with brotli: first with fences in code, then
  with fences read from a file and a trail written to one, for which \`import('aurelian-drift/formats')\` can be loaded
  later.
- **memory** is the growth of the heap and its buffers, after a garbage collection.
`;
    writeFileSync(new URL('../docs/benchmarks.md', import.meta.url), page);
  }
}
