import { createRequire } from 'node:module';
import { Resvg } from '@resvg/resvg-js';
import { FixFilter, distance, smoothTrail, type Fix, type Position } from 'aurelian-drift';
import type { JourneyOptions, Reception } from 'aurelian-drift/testing';
import { means } from './filter.js';
import { GAP, walk } from './walks.js';

/*
 * The picture of docs/true-path.md: a corner of a walk under each reception, with speeds and without, and the walk
 * without speeds whose distance is worst.
 */

interface Panel {
  readonly title: string;
  readonly centre: Position;
  /** Width in metres. */
  readonly across: number;
  readonly journey: JourneyOptions;
}

const NORTH_CORNER = { lat: 44.1986, lon: -33.6074 };
const WEST_CORNER = { lat: 44.1958, lon: -33.6165 };
const WITH_SPEEDS: readonly Panel[] = [
  panel('open', NORTH_CORNER, 240, 50_001),
  panel('trees', NORTH_CORNER, 320, 50_002),
  panel('street', WEST_CORNER, 520, 50_003),
  panel('deep', WEST_CORNER, 520, 50_004),
];
const BARE: Partial<JourneyOptions> = { statedSpeed: 'absent', statedAccuracy: 'absent' };
/** Walks of which the worst is drawn. */
const WALKS = 30;
const WALK_SEED = 80_001;

const WIDTH = 1280;
const INK = '#2b2a33';
const GUTTER = 20;
const LOOKS = [
  { name: 'the fixes', of: 'raw', style: 'stroke="#a89f86" stroke-width="1.2"' },
  { name: 'mean of 9', of: 'mean', style: 'stroke="#5b4a8a" stroke-width="1.4" stroke-dasharray="2 3"' },
  { name: 'the true way', of: 'truth', style: `stroke="${INK}" stroke-width="1.6" stroke-dasharray="7 4"` },
  { name: 'filtered live', of: 'live', style: 'stroke="#d6a552" stroke-width="2"' },
  { name: 'smoothed', of: 'later', style: 'stroke="#b8791a" stroke-width="3"' },
] as const;

function panel(reception: Reception, centre: Position, across: number, seed: number): Panel {
  return { title: reception, centre, across, journey: { reception, seed } };
}

/** The walk without speeds whose distance is worst, around the place where it goes farthest astray. */
function worstPanel(reception: Reception, across: number): Panel {
  const all = Array.from({ length: WALKS }, (_, i) => {
    const journey = { reception, seed: WALK_SEED + i, ...BARE };
    const { raw, truth, way } = walk(journey);
    return { journey, raw, truth, off: raw.summary().distance / way - 1 };
  });
  const worst = all.toSorted((a, b) => Math.abs(b.off) - Math.abs(a.off))[0] as (typeof all)[number];
  const smoothed = [...smoothTrail(worst.raw)];
  const errors = smoothed.map((at, i) => distance(at, worst.truth[i] as Position));
  const farthest = errors.indexOf(errors.reduce((a, b) => Math.max(a, b)));
  const off = `${worst.off < 0 ? '−' : '+'}${Math.abs(100 * worst.off).toFixed(1)} %`;
  return {
    title: `${reception}, the worst of ${WALKS} walks: distance ${off}`,
    centre: worst.truth[farthest] as Position,
    across,
    journey: worst.journey,
  };
}

/** The picture as PNG. */
export function pathPicture(): Uint8Array {
  const bare = [
    panel('meadow', NORTH_CORNER, 240, 85_003),
    panel('wood', NORTH_CORNER, 320, 85_003),
    panel('town', WEST_CORNER, 420, 85_003),
    panel('open', NORTH_CORNER, 240, 85_003),
    panel('trees', NORTH_CORNER, 320, 85_003),
    panel('street', WEST_CORNER, 520, 85_003),
  ].map((each) => ({ ...each, journey: { ...each.journey, ...BARE } }));
  const rows = [
    { heading: 'The fixes state a speed', panels: WITH_SPEEDS.slice(0, 2), height: 330 },
    { heading: '', panels: WITH_SPEEDS.slice(2), height: 330 },
    { heading: 'Positions and times only', panels: bare.slice(0, 3), height: 270 },
    { heading: '', panels: bare.slice(3), height: 270 },
    { heading: '', panels: [worstPanel('town', 700)], height: 300 },
  ];
  let top = 12;
  const drawn = rows.map(({ heading, panels, height }) => {
    const title =
      heading === ''
        ? ''
        : `<text x="${GUTTER}" y="${top + 22}" font-size="21" font-weight="600">${heading}</text>`;
    if (heading !== '') top += 36;
    const width = (WIDTH - GUTTER) / panels.length - GUTTER;
    const row = panels.map((each, i) =>
      panelText(each, { left: GUTTER + i * (width + GUTTER), top, width, height }),
    );
    top += height + GUTTER;
    return title + row.join('');
  });
  const legend = LOOKS.map(({ name, style }, i) => {
    const x = 40 + i * 190;
    const line = `<path d="M${x} ${top + 8}h44" fill="none" ${style}/>`;
    return `${line}<text x="${x + 52}" y="${top + 13}" font-size="15">${name}</text>`;
  });
  const height = top + 34;
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${height}" font-family="Source Sans 3"
    fill="${INK}">
<rect width="${WIDTH}" height="${height}" fill="#f5e8d2"/>${drawn.join('')}${legend.join('')}</svg>`;
  const faces = ['400Regular/SourceSans3_400Regular', '600SemiBold/SourceSans3_600SemiBold'];
  const fontFiles = faces.map((face) =>
    createRequire(import.meta.url).resolve(`@expo-google-fonts/source-sans-3/${face}.ttf`),
  );
  const font = { fontFiles, loadSystemFonts: false, defaultFontFamily: 'Source Sans 3' };
  return new Resvg(svg, { font }).render().asPng();
}

function panelText(
  { title, centre, across, journey }: Panel,
  box: { readonly left: number; readonly top: number; readonly width: number; readonly height: number },
): string {
  const { left, top, width, height } = box;
  const { raw, truth } = walk(journey);
  const fixes = [...raw];
  const paths = {
    raw: fixes,
    truth,
    mean: means(fixes),
    live: filtered(fixes),
    later: [...smoothTrail(raw)],
  };
  const scale = width / across;
  const north = distance({ lat: centre.lat - 0.5, lon: 0 }, { lat: centre.lat + 0.5, lon: 0 });
  const east = 100 * distance({ lat: centre.lat, lon: 0 }, { lat: centre.lat, lon: 0.01 });
  const pixel = ({ lat, lon }: Position) =>
    `${(left + width / 2 + (lon - centre.lon) * east * scale).toFixed(1)} ` +
    (top + height / 2 - (lat - centre.lat) * north * scale).toFixed(1);
  const drawn = (path: readonly Position[]) =>
    path
      .map(
        (at, i) =>
          `${i === 0 || (fixes[i]?.time ?? 0) - (fixes[i - 1]?.time ?? 0) > GAP ? 'M' : 'L'}${pixel(at)}`,
      )
      .join('');
  const bar = across > 400 ? 100 : 50;
  const id = `panel-${Math.round(left)}-${Math.round(top)}`;
  return `<clipPath id="${id}"><rect x="${left}" y="${top}" width="${width}" height="${height}"/></clipPath>
<rect x="${left}" y="${top}" width="${width}" height="${height}" fill="#fbf3e3" stroke="${INK}"/>
<g clip-path="url(#${id})" fill="none" stroke-linejoin="round">${LOOKS.map(
    ({ of, style }) => `<path
  d="${drawn(paths[of])}" ${style}/>`,
  ).join('')}</g>
<text x="${left + 14}" y="${top + 27}" font-size="19" font-weight="600" stroke="#fbf3e3"
  stroke-width="4" paint-order="stroke">${title}</text>
<path d="M${left + 16} ${top + height - 18}v-6m0 6h${bar * scale}v-6" fill="none" stroke="${INK}"/>
<text x="${left + 16}" y="${top + height - 30}" font-size="14">${bar} m</text>`;
}

function filtered(fixes: readonly Fix[]): Fix[] {
  const filter = new FixFilter();
  return fixes.map((fix) => filter.take(fix).fix);
}
