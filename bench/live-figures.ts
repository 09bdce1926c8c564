import { FixFilter, MotionMeter, distance, fixFrom } from 'aurelian-drift';
import { journey, type Reception, type SpeedStatement } from 'aurelian-drift/testing';
import type { Row } from './measure.js';
import { KINDS } from './receivers.js';
import { RESTS, ROUTE, medianOf } from './walks.js';

/*
 * What an app shows while it follows: the filtered place beside its stated radius, and the speed and course that are
 * derived where none are stated, beside the truth.
 */

const WALKS = 30;
/** The first seed. No seed was used for tuning. */
const FIRST_SEED = 85_001;
/** Seconds before the figures begin. */
const WARM_UP = 60;

export interface LiveFigures {
  /** Share of the filtered places within their stated 95 % radius. */
  readonly inside: number;
  /** Medians of the error and of the radius, metres. */
  readonly error: number;
  readonly radius: number;
  /** Of the derived motion: median error of the speed as a share of it, and of the course in degrees. */
  readonly speed: number;
  readonly course: number;
  /** Share of the time in motion in which it is known; share of the known speeds within their stated error. */
  readonly known: number;
  readonly within: number;
  /** Share of the time at rest in which a speed is shown. */
  readonly shownAtRest: number;
}

export function liveFigures(reception: Reception, statedSpeed: SpeedStatement): LiveFigures {
  const [errors, radii, speeds, courses]: [number[], number[], number[], number[]] = [[], [], [], []];
  let [inside, moving, known, within, resting, shown] = [0, 0, 0, 0, 0, 0];
  for (let seed = FIRST_SEED; seed < FIRST_SEED + WALKS; seed++) {
    const [filter, meter] = [new FixFilter(), new MotionMeter()];
    let start: number | undefined;
    for (const { truth, fix: raw } of journey(ROUTE, { seed, reception, rests: RESTS, statedSpeed })) {
      if (raw === undefined) continue;
      const fix = fixFrom(raw);
      const filtered = filter.take(fix).fix;
      const motion = meter.take(fix);
      start ??= truth.time;
      if (truth.time - start < WARM_UP * 1000) continue;
      const error = distance(filtered, truth);
      errors.push(error);
      radii.push(filtered.accuracy ?? 0);
      if (error <= (filtered.accuracy ?? 0)) inside++;
      const speed = truth.speed ?? 0;
      if (speed < 0.3) {
        resting++;
        if (motion !== undefined) shown++;
        continue;
      }
      moving++;
      if (motion === undefined) continue;
      known++;
      const off = Math.abs(motion.speed - speed);
      speeds.push(off / speed);
      if (off <= (motion.speedAccuracy ?? Infinity)) within++;
      if (motion.course !== undefined && truth.course !== undefined)
        courses.push(Math.abs(((motion.course - truth.course + 540) % 360) - 180));
    }
  }
  return {
    inside: inside / errors.length,
    error: medianOf(errors),
    radius: medianOf(radii),
    speed: medianOf(speeds),
    course: medianOf(courses),
    known: known / moving,
    within: within / known,
    shownAtRest: shown / resting,
  };
}

const percent = (share: number) => `${(100 * share).toFixed(0)} %`;

/** The filtered place against its stated radius, with a stated speed and without. */
export function liveRows(): Row[] {
  return KINDS.flatMap((reception) =>
    (['true', 'absent'] as const).map((statedSpeed) => {
      const { inside, error, radius } = liveFigures(reception, statedSpeed);
      return {
        what: `filtered place under \`${reception}\`, ${statedSpeed === 'true' ? 'with' : 'without'} speeds`,
        ours: `${percent(inside)} inside the stated radius`,
        baseline: `median error ${error.toFixed(1)} m`,
        ratio: `radius ${(radius / error).toFixed(2)} × the error`,
        goal: '90 to 99 %, ≤ 2.5 ×',
        met: inside >= 0.9 && inside <= 0.99 && radius / error <= 2.5,
      };
    }),
  );
}
