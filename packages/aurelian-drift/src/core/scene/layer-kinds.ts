import { FENCES } from './layers/fences.js';
import { GRID } from './layers/grid.js';
import { GROUND } from './layers/ground.js';
import { LINE } from './layers/line.js';
import { MEMBERS } from './layers/members.js';
import { PINS } from './layers/pins.js';
import { SHAPES } from './layers/shapes.js';
import { TILE_PICTURES } from './layers/tile-pictures.js';
import { TRAIL } from './layers/trail-kind.js';

/** The kinds of layers that any picture can show, bottom to top. */
export const SHEET_KINDS = [GRID, GROUND, TILE_PICTURES, LINE, TRAIL, SHAPES, FENCES, MEMBERS, PINS] as const;

/** A layer of any of these kinds. */
export type SheetLayer = Parameters<(typeof SHEET_KINDS)[number]['prepare']>[0];
