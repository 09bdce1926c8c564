import type { UnitSystem } from '../../fix/units.js';
import type { Camera } from '../camera.js';
import { LOOK } from '../look.js';
import type { Layer, Step } from '../scene.js';
import { filled } from '../../texts/part.js';
import { PLAIN_WORDS, type MapWords } from '../map-words.js';
import { cutText } from '../text-lines.js';
import { textWidth, type MeasureText } from '../text-width.js';
import { gridStep, multiples } from './grid.js';

/** What is written in the margin of a sheet. */
export interface MarginPaint {
  /** Source of the map data. */
  readonly credit?: string;
  /** Pixels of paper around the map; below 20 no degrees are written on the sides. Default 26. */
  readonly width?: number;
  /** Pixels below the map, for scale, bearing and credit. Default 34. */
  readonly foot?: number;
  readonly title?: string;
  /** Units of the scale. Default `metric`. */
  readonly units?: UnitSystem;
  /** Words of the scale and of the direction. Default: English. */
  readonly words?: MapWords;
  /** Measures texts in the font that draws them. Default: widths of the font of the house. */
  readonly measure?: MeasureText;
}

/** Size of a unit in metres, its name, and the number of them in the next larger one. */
const SCALE_UNITS: Readonly<Record<UnitSystem, readonly (readonly [metres: number, name: string])[]>> = {
  metric: [
    [1000, 'km'],
    [1, 'm'],
  ],
  imperial: [
    [1609.344, 'mi'],
    [0.3048, 'ft'],
  ],
  nautical: [
    [1852, 'nmi'],
    [185.2, 'cbl'],
    [1, 'm'],
  ],
};

/** The part of a picture inside the margin: [left, top, right, bottom] in pixels. */
export function withinMargin(
  { width, height }: Camera,
  { width: side = 26, foot = 34, title }: MarginPaint = {},
): readonly [number, number, number, number] {
  return [side, title === undefined ? side : Math.max(side, 34), width - side, height - foot];
}

/** The paper around the map, as on a printed chart: degrees, a scale, the direction of north, and the credit. */
export function marginLayer(camera: Camera, paint: MarginPaint = {}): Layer {
  const { width: side = 26, foot = 34, title, measure = textWidth } = paint;
  const { width, height } = camera;
  const [x1, y1, x2, y2] = withinMargin(camera, paint);
  const top = y1;
  const paper = [
    [0, 0, width, 0, width, height, 0, height],
    [x1, y1, x2, y1, x2, y2, x1, y2],
  ];
  const steps: Step[] = [
    { kind: 'shape', rings: paper, closed: true, fill: LOOK.parchment },
    frame(x1 - 0.5, y1 - 0.5, x2 + 0.5, y2 + 0.5, 1.4),
  ];
  if (side >= 20) {
    steps.push(frame(x1 - 5.5, y1 - 5.5, x2 + 5.5, y2 + 5.5, 0.7));
    const titleEnd = title === undefined ? 0 : x1 + measure(title, 17, 600) + 12;
    steps.push(...degreeSteps(camera, x1, y1, x2, y2, titleEnd));
  }
  if (title !== undefined) {
    steps.push({ kind: 'text', x: x1, y: top - 12, text: title, size: 17, weight: 600, colour: LOOK.ink });
  }
  steps.push(...footSteps(camera, paint, side, height - foot / 2 + (side >= 20 ? 5 : 1)));
  return { id: 'margin', steps };
}

function frame(x1: number, y1: number, x2: number, y2: number, width: number): Step {
  return {
    kind: 'shape',
    rings: [[x1, y1, x2, y1, x2, y2, x1, y2]],
    closed: true,
    stroke: { colour: LOOK.ink, width },
  };
}

/** Alternating bars between the two frame lines, and a few degrees in figures. Only when north is up. */
function degreeSteps(
  camera: Camera,
  x1: number,
  y1: number,
  x2: number,
  y2: number,
  titleEnd: number,
): Step[] {
  if (camera.turn !== 0) return [];
  const step = gridStep(camera, 64);
  const a = camera.positionAt(x1, y1);
  const b = camera.positionAt(x2, y2);
  const east = b.lon < a.lon ? b.lon + 360 : b.lon;
  const bars: number[][] = [];
  const steps: Step[] = [];
  for (const lon of multiples(a.lon - step, east + step, step)) {
    const [from, to] = [lon, lon + step].map((each) =>
      Math.max(x1, Math.min(x2, camera.pixelOf({ lat: a.lat, lon: each }).x)),
    ) as [number, number];
    if (Math.round(lon / step) % 2 === 0 && to > from) {
      for (const y of [y1 - 3, y2 + 3]) bars.push([from, y, to, y]);
    }
  }
  for (const lat of multiples(b.lat - step, a.lat + step, step)) {
    const [from, to] = [lat, lat + step].map((each) =>
      Math.max(y1, Math.min(y2, camera.pixelOf({ lat: each, lon: a.lon }).y)),
    ) as [number, number];
    if (Math.round(lat / step) % 2 === 0 && from > to) {
      for (const x of [x1 - 3, x2 + 3]) bars.push([x, from, x, to]);
    }
  }
  steps.push({
    kind: 'shape',
    rings: bars,
    closed: false,
    stroke: { colour: LOOK.ink, width: 2.6, dash: [100_000] },
  });
  const degrees = (value: number, positive: string, negative: string) =>
    `${sexagesimal(Math.abs(value), step * 2)} ${value < 0 ? negative : positive}`;
  for (const lon of multiples(a.lon, east, step * 2)) {
    const { x } = camera.pixelOf({ lat: a.lat, lon });
    if (x < Math.max(x1, titleEnd) + 40 || x > x2 - 40) continue;
    steps.push({
      kind: 'text',
      x,
      y: y1 - 9,
      text: degrees(lon, 'E', 'W'),
      size: 11,
      anchor: 'middle',
      colour: LOOK.ink,
    });
  }
  for (const lat of multiples(b.lat, a.lat, step * 2)) {
    const { y } = camera.pixelOf({ lat, lon: a.lon });
    if (y < y1 + 40 || y > y2 - 40) continue;
    steps.push({
      kind: 'text',
      x: x1 - 9,
      y,
      text: degrees(lat, 'N', 'S'),
      size: 11,
      anchor: 'middle',
      turn: -90,
      colour: LOOK.ink,
    });
  }
  return steps;
}

/** Degrees, with minutes and seconds if the step needs them. */
function sexagesimal(degrees: number, step: number): string {
  const seconds = Math.round(degrees * 3600);
  const [d, m, sec] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60];
  const two = (value: number) => String(value).padStart(2, '0');
  if (step >= 1) return `${d}°`;
  return step * 60 >= 1 - 1e-9 ? `${d}° ${two(m)}′` : `${d}° ${two(m)}′ ${two(sec)}″`;
}

/** Scale on the left, north beside it, credit on the right. */
function footSteps(camera: Camera, paint: MarginPaint, side: number, y: number): Step[] {
  const { credit, units, words = PLAIN_WORDS, measure = textWidth } = paint;
  const { label, pixels } = scaleBar(camera, camera.width < 420 ? 64 : 110, words, units);
  const start = Math.max(side, 8);
  const quarter = pixels / 4;
  const dark = [0, 2].map((i) => [
    start + i * quarter,
    y - 3,
    start + (i + 1) * quarter,
    y - 3,
    start + (i + 1) * quarter,
    y + 2,
    start + i * quarter,
    y + 2,
  ]);
  const north = start + pixels + measure(label, 12) + 30;
  const turn = (-camera.turn * Math.PI) / 180;
  const tip = (r: number, angle: number) => [
    north + r * Math.sin(turn + angle),
    y - r * Math.cos(turn + angle),
  ];
  const steps: Step[] = [
    { kind: 'shape', rings: dark, closed: true, fill: LOOK.ink },
    {
      kind: 'shape',
      rings: [[start, y - 3, start + pixels, y - 3, start + pixels, y + 2, start, y + 2]],
      closed: true,
      stroke: { colour: LOOK.ink, width: 1 },
    },
    { kind: 'text', x: start + pixels + 7, y: y + 4, text: label, size: 12, colour: LOOK.ink },
    {
      kind: 'shape',
      rings: [[...tip(9, 0), ...tip(7, 2.5), ...tip(2, Math.PI), ...tip(7, -2.5)]],
      closed: true,
      fill: LOOK.ink,
    },
    {
      kind: 'text',
      x: north + 11,
      y: y + 4,
      text: camera.turn === 0 ? 'N' : filled(words.texts.turned, { degrees: Math.round(camera.turn) }),
      size: 12,
      weight: 600,
      colour: LOOK.ink,
    },
  ];
  if (credit !== undefined) {
    const room = camera.width - side - north - 40;
    const text = cutText(credit, room, (part) => measure(part, 11));
    steps.push({
      kind: 'text',
      x: camera.width - Math.max(side, 8),
      y: y + 4,
      text,
      size: 11,
      anchor: 'end',
      colour: LOOK.ink,
    });
  }
  return steps;
}

/** The longest round length of at most a number of pixels, in the largest unit of which it has at least one. */
function scaleBar(
  camera: Camera,
  max: number,
  words: MapWords,
  units: UnitSystem = 'metric',
): { label: string; pixels: number } {
  const room = max * camera.metresPerPixel;
  const table = SCALE_UNITS[units];
  const [metres, name] = table.find(([each]) => each <= room) ?? table.at(-1) ?? [1, 'm'];
  const power = 10 ** Math.floor(Math.log10(room / metres));
  const count = [5, 2, 1].map((digit) => digit * power).find((each) => each * metres <= room) ?? power;
  return {
    label: `${words.number(Number(count.toPrecision(3)))} ${name}`,
    pixels: (count * metres) / camera.metresPerPixel,
  };
}
