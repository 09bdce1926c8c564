import {
  InputError,
  fencesFrom,
  readCsv,
  readGpx,
  readKml,
  readNmea,
  writeCsv,
  writeGpx,
  writeKml,
  writeNmea,
  Trail,
  fixFrom,
} from 'aurelian-drift';
import type { Row } from './measure.js';

/** Sizes to compare, as multiples of the smallest. */
const SIZES = [1, 10, 100] as const;
/**
 * A linear reader takes ten times as long for ten times the input. Fixed costs lower the ratio; a cold cache raises it.
 */
const LINEAR = 16;

const blanks = (count: number) => ' '.repeat(count);
const kml = (coordinates: string) =>
  '<kml xmlns="http://www.opengis.net/kml/2.2"><Placemark><LineString>' +
  `<coordinates>${coordinates}</coordinates></LineString></Placemark></kml>`;

function walk(fixes: number): Trail {
  const at = (i: number) =>
    fixFrom({
      time: 1.7e12 + i * 1000,
      lat: 44 + i * 1e-6,
      lon: -33 - i * 1e-6,
      accuracy: 5,
      altitude: i % 90,
      speed: 1,
    });
  return Trail.from(Array.from({ length: fixes }, (_, i) => at(i)));
}

function lateGpx(fixes: number): string {
  const time = (i: number) => new Date(1.7e12 + (fixes - i) * 1000).toISOString();
  const point = (i: number) =>
    `<trkpt lat="44" lon="-33"><time>${time(i)}</time><extensions><marks>late backwards</marks></extensions></trkpt>`;
  return (
    `<gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" ` +
    `creator="x"><trk><trkseg>${Array.from({ length: fixes }, (_, i) => point(i)).join('')}</trkseg></trk></gpx>`
  );
}

function ring(places: number): object {
  const at = (i: number) => [
    -33 + Math.cos((i / places) * 2 * Math.PI),
    44 + Math.sin((i / places) * 2 * Math.PI),
  ];
  const coordinates = [Array.from({ length: places }, (_, i) => at(i))];
  return { type: 'Feature', id: 'a', properties: { name: 'A' }, geometry: { type: 'Polygon', coordinates } };
}

/** The input for a size, and the reader of it. */
const INPUTS: readonly (readonly [string, (size: number) => () => unknown])[] = [
  ['a walk as GPX', (size) => reading(readGpx, writeGpx({ trails: [walk(200 * size)] }))],
  ['a walk as KML', (size) => reading(readKml, writeKml({ trails: [walk(200 * size)] }))],
  ['a walk as CSV', (size) => reading(readCsv, writeCsv({ trails: [walk(200 * size)] }))],
  ['a walk as NMEA', (size) => reading(readNmea, writeNmea({ trails: [walk(200 * size)] }))],
  ['GPX whose fixes all came late', (size) => reading(readGpx, lateGpx(200 * size))],
  ['blanks between two coordinates', (size) => reading(readKml, kml(`1,2${blanks(20_000 * size)}3,4`))],
  ['digits that are no number', (size) => reading(readKml, kml(`${'1'.repeat(20_000 * size)}x,2`))],
  ['a quote that never closes', (size) => reading(readCsv, `time,lat,lon\n"${blanks(9_000 * size)}`)],
  [
    'an outline',
    (size) => {
      const feature = ring(1000 * size);
      return () => fencesFrom(feature);
    },
  ],
];

function reading(read: (text: string) => unknown, text: string): () => unknown {
  return () => {
    try {
      return read(text);
    } catch (error) {
      if (!(error instanceof InputError)) throw error; // some readers refuse these, and the time of the refusal counts
      return undefined;
    }
  };
}

/** Growth of the time of each reader for ten and for a hundred times the input. */
export function growthRows(): Row[] {
  return INPUTS.map(([what, make]) => {
    const seconds = SIZES.map((size) => secondsOf(make(size)));
    const [once, ten, hundred] = seconds as [number, number, number];
    const growth = [ten / once, hundred / ten];
    return {
      what: `reading ${what}, 10 and 100 times as much`,
      ours: `${(hundred * 1000).toFixed(0)} ms`,
      baseline: `once ${(once * 1000).toFixed(2)} ms`,
      ratio: growth.map((ratio) => `${ratio.toFixed(1)} ×`).join(', '),
      goal: `each ≤ ${LINEAR} ×`,
      met: growth.every((ratio) => ratio <= LINEAR),
    };
  });
}

/** The shortest of several rounds after two warm-up rounds; small inputs run more often. */
function secondsOf(work: () => unknown): number {
  let min = Infinity;
  const end = performance.now() + 700;
  for (let round = -2; round < 5 || performance.now() < end; round++) {
    const start = performance.now();
    work();
    if (round >= 0) min = Math.min(min, (performance.now() - start) / 1000);
  }
  return min;
}
