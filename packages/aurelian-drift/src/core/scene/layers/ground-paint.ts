import { LOOK, blend } from '../look.js';
import type { Fill } from '../scene.js';

/** How a kind of ground is painted: in coats, one over the other. */
export interface GroundPaint {
  readonly kind: string;
  /** Smallest zoom at which it is shown. */
  readonly from?: number;
  readonly coats: readonly {
    readonly fill?: Fill;
    /** Width in pixels at zoom 15, which grows with the zoom unless fixed, and is never below `min`. */
    readonly stroke?: {
      colour: string;
      width: number;
      fixed?: boolean;
      min?: number;
      dash?: readonly number[];
    };
  }[];
}

const deeper = (colour: string, share = 0.35) => blend(colour, LOOK.ink, share);

/** Engraved lines along the shore: strokes, wide ones first, with the water painted over their inside. */
const SHORE = [26, 19, 13, 8, 4].flatMap((reach, i) => [
  { stroke: { colour: blend(LOOK.water, LOOK.shore, 0.35 + i * 0.15), width: reach + 1.3, fixed: true } },
  { stroke: { colour: LOOK.water, width: reach - 0.3, fixed: true } },
]);

/** Bottom to top. */
export const GROUND_PAINT: readonly GroundPaint[] = [
  { kind: 'land', coats: [...SHORE, { fill: LOOK.meadow }] },
  { kind: 'beach', coats: [{ fill: blend(LOOK.dune, LOOK.parchment, 0.5) }] },
  {
    kind: 'dune',
    coats: [
      { fill: LOOK.dune },
      { fill: { colour: blend(LOOK.dune, LOOK.gold, 0.5), spacing: 7, width: 0.6, angle: 20 } },
    ],
  },
  {
    kind: 'scrub',
    coats: [
      { fill: LOOK.scrub },
      { fill: { colour: deeper(LOOK.scrub, 0.3), spacing: 8, width: 0.5, angle: 90 } },
    ],
  },
  {
    kind: 'heath',
    coats: [
      { fill: LOOK.heath },
      { fill: { colour: deeper(LOOK.heath, 0.28), spacing: 6, width: 0.5, angle: 0 } },
    ],
  },
  {
    kind: 'wood',
    coats: [
      { fill: LOOK.woods },
      { fill: { colour: deeper(LOOK.woods, 0.35), spacing: 4.5, width: 0.6, angle: 45 } },
    ],
  },
  { kind: 'garden', coats: [{ fill: blend(LOOK.meadow, LOOK.parchment, 0.55) }] },
  {
    kind: 'contour',
    from: 12.5,
    coats: [{ stroke: { colour: blend(LOOK.meadow, LOOK.goldText, 0.28), width: 0.7, fixed: true } }],
  },
  {
    kind: 'stream',
    from: 12,
    coats: [{ stroke: { colour: blend(LOOK.water, LOOK.ink, 0.3), width: 1.7, min: 0.8 } }],
  },
  {
    kind: 'lake',
    coats: [
      { fill: LOOK.water, stroke: { colour: blend(LOOK.water, LOOK.ink, 0.45), width: 1, fixed: true } },
    ],
  },
  {
    kind: 'land',
    coats: [{ stroke: { colour: blend(LOOK.shore, LOOK.ink, 0.55), width: 1.1, fixed: true } }],
  },
  {
    kind: 'path',
    from: 12.5,
    coats: [
      { stroke: { colour: blend(LOOK.parchment, LOOK.ink, 0.62), width: 1.5, min: 0.9, dash: [5, 2.5] } },
    ],
  },
  {
    kind: 'lane',
    coats: [
      { stroke: { colour: blend(LOOK.parchment, LOOK.ink, 0.6), width: 5, min: 1.8 } },
      { stroke: { colour: LOOK.lane, width: 3.5, min: 0.8 } },
    ],
  },
  { kind: 'building', from: 13.5, coats: [{ fill: blend(LOOK.ink, LOOK.parchment, 0.25) }] },
];
