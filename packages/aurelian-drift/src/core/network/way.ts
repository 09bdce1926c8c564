import type { Fence } from '../fence/fence.js';
import type { Position } from '../geodesy/position.js';
import type { Line } from '../trail/line.js';
import type { Preference } from './travel.js';
import type { Turn } from './turns.js';

/** A question for a way. */
export interface WayRequest {
  readonly from: Position;
  readonly to: Position;
  /** Positions to pass in between, in this order. */
  readonly via?: readonly Position[];
  /** Kind of travel: `foot`, `cycle`, `drive`, or one of own rules. Default `foot`. */
  readonly by?: string;
  /** Default `fastest`. */
  readonly prefer?: Preference;
  /** Areas that are entered only if there is no way around them up to twenty times as long. */
  readonly avoid?: readonly Fence[];
  /** Areas that are never entered. */
  readonly closed?: readonly Fence[];
  /** Number of different ways, 1 to 5; there may be fewer. Default 1. */
  readonly choices?: number;
}

/** A step of a way: a turn, and how far it goes from there to the next. */
export interface WayStep {
  readonly turn: Turn;
  readonly at: Position;
  /** Metres from the start of the way. */
  readonly along: number;
  /** Metres and seconds to the next step. */
  readonly metres: number;
  readonly seconds: number;
  /** Direction at its start, degrees clockwise from true north. */
  readonly course: number;
  /** Name of the lane; absent for one without a name. */
  readonly name?: string;
  /** Kind of the lane, such as `path`, if it states one. */
  readonly kind?: string;
}

/** A way from a place to another. */
export interface Way {
  readonly by: string;
  /** The line to travel: the walk to the network, the way over it, the walk from it. */
  readonly line: Line;
  /** Metres and seconds on the network. */
  readonly metres: number;
  readonly seconds: number;
  /** Metres from the start to the network, and from it to the target, as the crow flies. */
  readonly walk: readonly [to: number, from: number];
  readonly steps: readonly WayStep[];
  /** Places on the network where the positions to pass are nearest. */
  readonly via: readonly Position[];
  /** Names of areas to avoid that it enters all the same. */
  readonly enters: readonly string[];
}

/** Kinds of questions without a way. */
export type NoWayKind = 'no-way' | 'off-network';

/** There is no way: no connection (`no-way`), or no open lane near one of its ends (`off-network`). */
export class NoWayError extends Error {
  override readonly name = 'NoWayError';
  readonly kind: NoWayKind;
  /** The place nearest to the target that can be reached; or the nearest open lane. */
  readonly nearest: Position | undefined;
  /** Metres from there to the target, or to the position that is off the network. */
  readonly metres: number | undefined;

  constructor(kind: NoWayKind, message: string, nearest?: Position, metres?: number) {
    super(message);
    this.kind = kind;
    this.nearest = nearest;
    this.metres = metres;
  }
}
