/*
 * npm run true-path: measures the filter under every reception, and updates the table and the picture of
 * docs/true-path.md.
 */
import { writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Resvg } from '@resvg/resvg-js';
import { FixFilter, distance, smoothTrail, type Position } from 'aurelian-drift';
import type { FreshReception } from 'aurelian-drift/testing';
import { renewMeasured } from './page.js';
import { measureReceptions, means, type Measured } from './filter.js';
import { GAP, walk } from './walks.js';

const PICTURE = new URL('../docs/screenshots/true-path.png', import.meta.url);

function tableOf(all: readonly Measured[]): string {
  const metres = (value: number) => `${value.toFixed(2)} m`;
  const percent = (share: number) => `${share < 0 ? '−' : '+'}${Math.abs(100 * share).toFixed(1)} %`;
  const rows: readonly (readonly [string, (each: Measured) => string])[] = [
    ['error of the fixes', ({ raw }) => metres(raw)],
    ['of a plain mean of 9', ({ mean }) => metres(mean)],
    ['**filtered live**', ({ live }) => `**${metres(live)}**`],
    ['a filter told the true noise', ({ referenceLive }) => metres(referenceLive)],
    ['**smoothed**', ({ later }) => `**${metres(later)}**`],
    ['a smoother told the true noise', ({ referenceLater }) => metres(referenceLater)],
    ['worst walk, beside its fixes', ({ worst }) => `${worst.toFixed(2)} ×`],
    ['raw sum of distance', ({ rawSum }) => percent(rawSum)],
    ['of the mean of 9', ({ meanSum }) => percent(meanSum)],
    ['**honest distance, off by**', ({ honest }) => `**${(100 * honest).toFixed(1)} %**`],
    ['at worst', ({ honestWorst }) => `${(100 * honestWorst).toFixed(1)} %`],
    ['length of the path smoothed', ({ pathSum }) => percent(pathSum)],
    ['ten minutes of standing add, at most', ({ standing }) => `${standing.toFixed(0)} m`],
    ['raw', ({ standingRaw }) => `${standingRaw.toFixed(0)} m`],
  ];
  return [
    `| | ${all.map(({ reception }) => `\`${reception}\``).join(' | ')} |`,
    `| --- |${all.map(() => ' ---: |').join('')}`,
    ...rows.map(([name, reported]) => `| ${name} | ${all.map(reported).join(' | ')} |`),
  ].join('\n');
}

/** Centre of a panel, its width in metres, and the seed of the walk. */
const PANELS: readonly (readonly [FreshReception, title: string, Position, across: number, seed: number])[] =
  [
    ['open', 'open', { lat: 44.1987, lon: -33.6074 }, 240, 50_001],
    ['trees', 'trees', { lat: 44.1986, lon: -33.6074 }, 320, 50_002],
    ['street', 'street', { lat: 44.1958, lon: -33.6165 }, 520, 50_003],
    ['deep', 'deep', { lat: 44.1958, lon: -33.6165 }, 520, 50_004],
  ];
const WIDTH = 1280;
const HEIGHT = 860;
const INK = '#2b2a33';
const LOOKS = [
  { name: 'the fixes', of: 'raw', style: 'stroke="#a89f86" stroke-width="1.2"' },
  { name: 'mean of 9', of: 'mean', style: 'stroke="#5b4a8a" stroke-width="1.4" stroke-dasharray="2 3"' },
  { name: 'the true way', of: 'truth', style: `stroke="${INK}" stroke-width="1.6" stroke-dasharray="7 4"` },
  { name: 'filtered live', of: 'live', style: 'stroke="#d6a552" stroke-width="2"' },
  { name: 'smoothed', of: 'later', style: 'stroke="#b8791a" stroke-width="3"' },
] as const;

function pictureOf(): string {
  const legend = LOOKS.map(({ name, style }, i) => {
    const x = 40 + i * 190;
    return `<path d="M${x} 834h44" fill="none" ${style}/><text x="${x + 52}" y="839" font-size="15">${name}</text>`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${HEIGHT}" font-family="Source Sans 3"
    fill="${INK}">
<rect width="${WIDTH}" height="${HEIGHT}" fill="#f5e8d2"/>${PANELS.map(panelOf).join('')}${legend.join('')}</svg>`;
}

function panelOf([reception, title, centre, across, seed]: (typeof PANELS)[number], n: number): string {
  const [width, height] = [WIDTH / 2 - 30, 385];
  const [left, top] = [20 + (n % 2) * (width + 20), 12 + (n >> 1) * (height + 20)];
  const { raw, truth } = walk({ reception, seed });
  const fixes = [...raw];
  const filter = new FixFilter();
  const paths = {
    raw: fixes,
    truth,
    mean: means(fixes),
    live: fixes.map((fix) => filter.take(fix).fix),
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
  return `<clipPath id="panel-${n}"><rect x="${left}" y="${top}" width="${width}" height="${height}"/></clipPath>
<rect x="${left}" y="${top}" width="${width}" height="${height}" fill="#fbf3e3" stroke="${INK}"/>
<g clip-path="url(#panel-${n})" fill="none" stroke-linejoin="round">${LOOKS.map(
    ({ of, style }) => `<path
  d="${drawn(paths[of])}" ${style}/>`,
  ).join('')}</g>
<text x="${left + 14}" y="${top + 28}" font-size="20" font-weight="600">${title}</text>
<path d="M${left + 16} ${top + height - 18}v-6m0 6h${bar * scale}v-6" fill="none" stroke="${INK}"/>
<text x="${left + 16}" y="${top + height - 30}" font-size="14">${bar} m</text>`;
}

const measured = measureReceptions();
const table = tableOf(measured);
renewMeasured('true-path.md', 'npm run true-path', table);
const faces = ['400Regular/SourceSans3_400Regular', '600SemiBold/SourceSans3_600SemiBold'];
const fontFiles = faces.map((face) =>
  createRequire(import.meta.url).resolve(`@expo-google-fonts/source-sans-3/${face}.ttf`),
);
const font = { fontFiles, loadSystemFonts: false, defaultFontFamily: 'Source Sans 3' };
writeFileSync(PICTURE, new Resvg(pictureOf(), { font }).render().asPng());
console.log(table);
