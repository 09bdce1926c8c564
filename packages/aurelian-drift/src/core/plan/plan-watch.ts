import { InputError } from '../check/input-error.js';
import { MotionMeter } from '../estimate/motion-meter.js';
import { PathFilter } from '../estimate/path-filter.js';
import { isUnsound } from '../estimate/fix-order.js';
import type { Crossing } from '../fence/crossing.js';
import { FenceWatch } from '../fence/watch.js';
import type { Fix } from '../fix/fix.js';
import { bearing, distance } from '../geodesy/distance.js';
import type { LinePlace } from '../geodesy/indexed-line.js';
import type { Position } from '../geodesy/position.js';
import { passThrough } from '../trail/part.js';
import type { Trail } from '../trail/trail.js';
import { LineMatcher, type LineMatch } from './line-matcher.js';
import type { Plan, Station } from './plan.js';
import { PLAN, corridorOf } from './plan-corridor.js';
import type { PlanEvent, Progress } from './progress.js';
import { planMemoryOf, planStateOf, type PlanTurn, type PlanWatchState } from './plan-state.js';
import { includes, lengthOf, withStretch, withoutStretches, type Stretches } from './stretches.js';

/** Probability from which a place of the line counts as that of the user. */
const CERTAIN = 0.8;
/** Metres between two stretches that count as one. */
const SLACK = 15;
/** A step along the line that is longer than this many times what was moved, and some metres, is a jump. */
const JUMP = 3;
const JUMP_MIN = 60;
/** Seconds over which the pace follows, and m/s below which it is a rest. */
const PACE_OVER = 300;
const PACE_MIN = 0.3;
/** Seconds without a fix after which a speed says nothing of the way in between: the straight line does. */
const SILENCE = 60;
/**
 * Milliseconds for which leaving and coming back have to last: who is displaced by an echo has neither left nor come
 * back, and echoes last up to ten seconds.
 */
const LASTS = { left: 25_000, back: 15_000 } as const;
/** Metres from a named point within which it counts as reached, at least; the accuracy if that is more. */
const REACHED = 10;
/** Metres behind a named point at which it counts as passed by. */
const PASSED = 50;

/** A fix on a plan, before anybody asks for the progress. */
interface Seen {
  readonly match: LineMatch;
  readonly at: Position;
  readonly time: number;
  readonly side: ReturnType<FenceWatch['sideOf']>;
  /** Metres along the line at which the user was for certain. */
  readonly known: number | undefined;
}

/**
 * Follows a user along a plan, fix by fix: the place on the line by a probabilistic match that knows laps, crossings
 * and ways back; what is done, skipped and repeated; the next named point and the expected arrival; leaving the
 * corridor and coming back, as certainly as the accuracy allows and dated to when it happened.
 */
export class PlanWatch {
  readonly plan: Plan;
  readonly #matcher: LineMatcher;
  readonly #corridor: FenceWatch;
  readonly #filter = new PathFilter();
  readonly #motion = new MotionMeter();
  readonly #told = new Set<Station>();
  #last: { readonly time: number; readonly at: Position } | undefined;
  /** Place of the last certain match. */
  #sure: number | undefined;
  #covered: Stretches = [];
  #repeated = 0;
  #pace: number | undefined;
  #finished = false;
  #progress: Progress | undefined;
  /** What the next progress is read from, when somebody asks. */
  #seen: Seen | undefined;
  /** Leaving or coming back, until it has lasted for some seconds. */
  #turn: PlanTurn | undefined;

  constructor(plan: Plan) {
    this.plan = plan;
    this.#matcher = new LineMatcher(plan.line, plan.corridor);
    this.#corridor = new FenceWatch(corridorOf(plan));
  }

  /** `undefined` before the first fix near the plan. */
  get progress(): Progress | undefined {
    const seen = this.#seen;
    if (seen !== undefined) this.#progress = this.#read(seen);
    this.#seen = undefined;
    return this.#progress;
  }

  /** Whether the end of the plan was reached. */
  get finished(): boolean {
    return this.#finished;
  }

  /** Named points that were neither reached nor passed by. */
  get waiting(): readonly Station[] {
    return this.plan.stations.filter((station) => !this.#told.has(station));
  }

  /** Takes the next fix, and returns the resulting events in order of time. Unsound fixes change nothing. */
  take(fix: Fix): PlanEvent[] {
    if (isUnsound(fix)) return [];
    const last = this.#last;
    if (last !== undefined && fix.time <= last.time) return [];
    const motion = this.#motion.take(fix);
    const crossings = this.#corridor.take(fix);
    const outcome = this.#filter.take(fix);
    if (outcome === 'refused') return this.#crossed(crossings, fix.time);
    const since = last === undefined ? 0 : (fix.time - last.time) / 1000;
    // After a silence the filter begins anew as well; the user has gone on meanwhile.
    if (outcome === 'jump' && since < SILENCE) this.#last = undefined;
    const at = this.#filter.position;
    const seconds = this.#last === undefined ? 0 : since;
    const moved =
      this.#last === undefined
        ? undefined
        : seconds >= SILENCE
          ? distance(this.#last.at, at)
          : motion === undefined
            ? Math.min(distance(this.#last.at, at), PACE_MIN * seconds)
            : motion.speed * seconds;
    const accuracy = this.#filter.accuracy;
    // A derived course lags behind a turn: only a stated one tells the way out from the way back.
    const course = motion?.derived === false ? motion.course : undefined;
    const match = this.#matcher.take({ ...at, accuracy, moved, course });
    this.#last = { time: fix.time, at };
    if (match === undefined) return [];
    const events = [
      ...this.#crossed(crossings, fix.time),
      ...this.#advance(match, fix.time, moved ?? 0, seconds, accuracy),
    ];
    const side = this.#corridor.sideOf(PLAN);
    this.#seen = { match, at, time: fix.time, side, known: this.#sure };
    return events.sort((a, b) => a.time - b.time);
  }

  /** A pause or a gap: the user may have moved anywhere meanwhile. */
  breakSegment(): void {
    // What happens in a gap is not known; who has left has left.
    if (this.#turn?.kind === 'back') this.#turn = undefined;
    this.#last = undefined;
    this.#sure = undefined;
    this.#corridor.breakSegment();
    this.#filter.breakSegment();
    this.#motion.breakSegment();
  }

  /** The state to store, so that nothing is told twice after a restart. */
  get state(): PlanWatchState {
    return planStateOf({
      length: this.plan.line.length,
      guesses: this.#matcher.guesses,
      sure: this.#sure,
      covered: this.#covered,
      repeated: this.#repeated,
      pace: this.#pace,
      finished: this.#finished,
      told: this.plan.stations.flatMap((station, i) => (this.#told.has(station) ? [i] : [])),
      turn: this.#turn,
      corridor: this.#corridor.state,
    });
  }

  /**
   * Restores a stored state. The next fix does not continue the path.
   *
   * @throws {InputError} of kind `bad-value` for a value that is not a state, is damaged, or belongs to another plan;
   *   the watch then stays as it was.
   */
  restore(state: PlanWatchState): void {
    const memory = planMemoryOf(state);
    if (Math.abs(memory.length - this.plan.line.length) > 1)
      throw new InputError(
        'bad-value',
        'this is the state of another plan: the length of its line is different',
      );
    this.#corridor.restore(memory.corridor);
    this.#turn = memory.turn;
    this.breakSegment();
    this.#matcher.guesses = memory.guesses;
    this.#sure = memory.sure;
    this.#covered = memory.covered;
    this.#repeated = memory.repeated;
    this.#pace = memory.pace;
    this.#finished = memory.finished;
    this.#told.clear();
    for (const i of memory.told) {
      const station = this.plan.stations[i];
      if (station !== undefined) this.#told.add(station);
    }
  }

  /** Counts the step to a certain place. */
  #advance(
    { along, on, certainty, direction }: LineMatch,
    time: number,
    moved: number,
    seconds: number,
    accuracy: number,
  ): PlanEvent[] {
    if (on * certainty < CERTAIN) return [];
    const events: PlanEvent[] = [];
    const from = this.#sure;
    this.#sure = along;
    if (from !== undefined && Math.abs(along - from) <= JUMP * moved + JUMP_MIN) {
      const step = Math.abs(along - from);
      if ((along - from) * direction > 0) {
        const fresh = lengthOf(withoutStretches(this.#covered, Math.min(from, along), Math.max(from, along)));
        if (fresh < step && moved > 0.5 * step) this.#repeated += step - fresh;
      }
      this.#covered = withStretch(this.#covered, from, along, SLACK);
      if (seconds > 0 && moved / seconds > PACE_MIN) {
        const share = 1 - Math.exp(-seconds / PACE_OVER);
        this.#pace =
          this.#pace === undefined ? moved / seconds : this.#pace + (moved / seconds - this.#pace) * share;
      }
    } else this.#covered = withStretch(this.#covered, along, along, SLACK);
    const reach = Math.max(this.plan.corridor, accuracy);
    const { length } = this.plan.line;
    for (const station of this.plan.stations) {
      if (this.#told.has(station)) continue;
      const late = station.time === undefined ? {} : { late: (time - station.time) / 1000 };
      const { name } = station;
      const isEnd = station.along > length - reach || station.along < reach;
      // Who stops within the accuracy of a point may be there.
      const near = isEnd ? reach : Math.min(this.plan.corridor, Math.max(REACHED, accuracy));
      if (includes(this.#covered, station.along) || Math.abs(along - station.along) <= near) {
        this.#told.add(station);
        events.push({ kind: 'reached', name, time, along: station.along, ...late });
      } else if (
        (along - station.along) * direction > PASSED + reach &&
        this.#wasBefore(station, direction)
      ) {
        this.#told.add(station);
        events.push({ kind: 'skipped', name, time, along: station.along });
      }
    }
    const left = direction === 1 ? length - along : along;
    const done = lengthOf(this.#covered);
    if (!this.#finished && left <= reach && done > 2 * reach) {
      this.#finished = true;
      events.push({ kind: 'finished', time, share: Math.min(1, done / length) });
    }
    return events;
  }

  /** Whether the user was on the plan before a station, in the direction of travel. */
  #wasBefore(station: Station, direction: 1 | -1): boolean {
    return this.#covered.some(
      ([from, to]) => ((direction === 1 ? from : to) - station.along) * direction < 0,
    );
  }

  /**
   * Events of the corridor, once they have lasted: its first certain fix is no event of the plan.
   *
   * @param now time of the fix.
   */
  #crossed(crossings: readonly Crossing[], now: number): PlanEvent[] {
    for (const { kind, time, lat, lon, certainty } of crossings) {
      if (kind !== 'exit' && kind !== 'enter') continue;
      const turn = kind === 'exit' ? 'left' : 'back';
      // Who goes back at once was not gone, and who leaves at once was not back.
      if (this.#turn !== undefined && this.#turn.kind !== turn) this.#turn = undefined;
      else if (turn === 'left' || this.#sure !== undefined) {
        const { along } = this.#nearTo({ lat, lon });
        this.#turn = { kind: turn, time, lat, lon, along, certainty };
      }
    }
    const turn = this.#turn;
    if (turn === undefined || now - turn.time < LASTS[turn.kind]) return [];
    if (this.#corridor.sideOf(PLAN) !== (turn.kind === 'left' ? 'outside' : 'inside')) return [];
    this.#turn = undefined;
    const { kind, ...at } = turn;
    if (kind === 'back') return [{ kind, ...at }];
    // By now the user is farther away: the side is clearer than at the edge.
    const { aside, distance: away, lat, lon } = this.#nearTo(this.#filter.position);
    return [{ kind, ...at, side: aside < 0 ? 'left' : 'right', distance: away, nearest: { lat, lon } }];
  }

  /** The place of the line near a position that is nearest to where the user was along it. */
  #nearTo(at: Position, known = this.#sure, found?: readonly LinePlace[]): LinePlace {
    const { line, corridor } = this.plan;
    // The places that were found for the match do, if they reach far enough.
    const least = (found ?? []).reduce((min, place) => Math.min(min, place.distance), Infinity);
    const places =
      least === Infinity
        ? line.nearestPlaces(at, corridor)
        : (found as readonly LinePlace[]).filter((place) => place.distance <= least + corridor);
    return places.reduce((best, place) => (isNearer(place, best, known) ? place : best));
  }

  #read({ match: { along, direction, certainty, on, places }, at, time, side, known }: Seen): Progress {
    const { line, stations } = this.plan;
    const off = side === 'outside';
    const near = off ? line.nearest(at) : this.#nearTo(at, known, places);
    const forward = direction === 1;
    const left = forward ? line.length - along : along;
    const ahead = stations.filter(
      (station) => !this.#told.has(station) && (station.along - along) * direction > 0,
    );
    const next = forward ? ahead[0] : ahead.at(-1);
    const pace = this.#pace;
    const done = lengthOf(this.#covered);
    const furthest = this.#covered.at(-1)?.[1] ?? 0;
    const first = this.#covered[0]?.[0] ?? 0;
    const arrivalIn = (metres: number) =>
      pace === undefined ? {} : { arrival: Math.round(time + (metres / pace) * 1000) };
    return {
      time,
      along,
      left,
      done,
      share: Math.min(1, done / line.length),
      travelled: this.#covered,
      direction: forward ? 'forward' : 'backward',
      on: side === 'uncertain' || side === undefined ? undefined : !off,
      distance: near.distance,
      side: near.aside < 0 ? 'left' : 'right',
      certainty: on * certainty,
      ...(pace !== undefined && { pace }),
      ...arrivalIn(left),
      ...(next !== undefined && { next: nextOf(next, at, Math.abs(next.along - along), arrivalIn) }),
      skipped: withoutStretches(this.#covered, first, furthest).filter(([from, to]) => to - from > SLACK),
      repeated: this.#repeated,
    };
  }
}

/** The progress at the end of a trail, and all events on the way: as they would have been live. */
export function progressOf(
  trail: Trail,
  plan: Plan,
): { readonly progress: Progress | undefined; readonly events: PlanEvent[] } {
  const watch = new PlanWatch(plan);
  const events: PlanEvent[] = [];
  passThrough(trail, {
    take: (fix) => events.push(...watch.take(fix)),
    breakSegment: () => watch.breakSegment(),
  });
  return { progress: watch.progress, events };
}

function nextOf(
  { name, lat, lon, time: planned }: Station,
  at: Position,
  metres: number,
  arrivalIn: (metres: number) => { readonly arrival?: number },
): NonNullable<Progress['next']> {
  const { arrival } = arrivalIn(metres);
  return {
    name,
    distance: metres,
    bearing: bearing(at, { lat, lon }),
    ...(arrival !== undefined && { arrival }),
    ...(planned !== undefined && { planned }),
    ...(arrival !== undefined && planned !== undefined && { late: (arrival - planned) / 1000 }),
  };
}

/** Whether a place is nearer along the line to where the user was, or to the user where that is not known. */
function isNearer(place: LinePlace, than: LinePlace, known: number | undefined): boolean {
  if (known === undefined) return place.distance < than.distance;
  return Math.abs(place.along - known) < Math.abs(than.along - known);
}
