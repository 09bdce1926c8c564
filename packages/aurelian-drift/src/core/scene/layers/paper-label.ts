import { LOOK } from '../look.js';
import type { Step } from '../scene.js';
import { linesOf } from '../text-lines.js';
import type { LabelRoom } from './label-room.js';

/** Size of the letters, height of a line, and rim of the paper, in pixels. */
const SIZE = 13;
const LINE = 17;
const RIM = 7;
/** Widest line in pixels, and most lines; a longer text is cut. */
const WIDEST = 236;
const LINES = 4;

/**
 * A paper label at a place, for a pin or the kite. It was opened, so it is shown in any case: right or left of the
 * place, above or below, else over what is there, completely in the visible part.
 */
export function paperLabel(text: string, x: number, y: number, room: LabelRoom): Step[] {
  const lines = linesOf(text, { width: WIDEST, lines: LINES, size: SIZE }, room.measure);
  if (lines.length === 0) return [];
  const width = Math.max(...lines.map((line) => room.measure(line, SIZE))) + 2 * RIM;
  const height = lines.length * LINE + 3;
  const spots = [
    [x + 10, y - height / 2],
    [x - 10 - width, y - height / 2],
    [x - width / 2, y - 14 - height],
    [x - width / 2, y + 32],
  ] as const;
  const free = spots.find((spot) => room.take(...spot, width, height));
  const [left, top] = free ?? room.inside(x + 10, y - height / 2, width, height);
  if (free === undefined) room.seize(left, top, width, height);
  const box = [left, top, left + width, top, left + width, top + height, left, top + height];
  return [
    {
      kind: 'shape',
      rings: [box],
      closed: true,
      fill: LOOK.parchment,
      stroke: { colour: LOOK.ink, width: 0.9 },
    },
    ...lines.map((line, i): Step => ({
      kind: 'text',
      x: left + RIM,
      y: top + 14.2 + i * LINE,
      text: line,
      size: SIZE,
      colour: LOOK.ink,
    })),
  ];
}
