import { Trail, readGpx, writeGpx } from 'aurelian-drift';
import { journey } from 'aurelian-drift/testing';
import { SaxesParser } from 'saxes';
import { beside, type Row } from './measure.js';

const FIXES = 50_000;

/** Reading GPX into a trail, beside the XML parser alone on the same text. */
export function gpxRow(): Row {
  const text = writeGpx({ trails: [longTrail()] });
  const times = beside(
    () => {
      if (readGpx(text).trails[0]?.length !== FIXES) throw new Error('not all was read');
    },
    () => {
      const parser = new SaxesParser();
      let points = 0;
      parser.on('opentag', (tag) => {
        if (tag.name === 'trkpt') points++;
      });
      // The parser alone also reports texts and ends of elements, because a trail cannot be read without them.
      parser.on('closetag', () => {});
      parser.on('text', () => {});
      parser.write(text).close();
      if (points !== FIXES) throw new Error('not all was parsed');
    },
  );
  const speed = (seconds: number) => `${(text.length / 1e6 / seconds).toFixed(1)} MB/s`;
  const ratio = times.baseline / times.ours;
  return {
    what: `reading GPX, ${(text.length / 1e6).toFixed(0)} MB, ${FIXES} fixes`,
    ours: speed(times.ours),
    baseline: `saxes alone ${speed(times.baseline)}`,
    ratio: `${ratio.toFixed(2)} ×`,
    goal: '≥ 0.8 ×',
    met: ratio >= 0.8,
  };
}

/** A walk that is long enough for this many fixes. */
function longTrail(): Trail {
  const line = {
    parts: [
      [
        { lat: 44.2, lon: -33.6, altitude: 10 },
        { lat: 45.2, lon: -33.6, altitude: 90 },
      ],
    ],
  };
  const trail = new Trail({ name: 'Long walk' });
  for (const { fix } of journey(line, { seed: 3 })) {
    if (fix !== undefined) trail.append(fix);
    if (trail.length === FIXES) break;
  }
  return trail;
}
