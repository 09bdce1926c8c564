import { FENCES } from './layers/fences.js';
import { GRID } from './layers/grid.js';
import { GROUND } from './layers/ground.js';
import { LINE } from './layers/line.js';
import { MEMBERS } from './layers/members.js';
import { PINS } from './layers/pins.js';
import { SHAPES } from './layers/shapes.js';
import { TRAIL } from './layers/trail.js';

/** The kinds of layers that any picture can show, bottom to top. */
export const SHEET_KINDS = [GRID, GROUND, LINE, TRAIL, SHAPES, FENCES, MEMBERS, PINS] as const;

/** A layer of any of these kinds. */
export type SheetLayer = Parameters<(typeof SHEET_KINDS)[number]['prepare']>[0];
