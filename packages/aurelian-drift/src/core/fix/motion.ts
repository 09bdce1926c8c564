import { fixedDecimals } from './decimals.js';
import { ABSENT, courseText, speedText } from './words.js';

/** Speed and course of a user in motion. */
export interface Motion {
  /** Metres per second over ground. */
  readonly speed: number;
  /** 95 % of the error of the speed, m/s; absent where the platform states the speed, for it states no error. */
  readonly speedAccuracy?: number;
  /** Degrees clockwise from true north, 0…360 (360 excluded); absent when it is not known within 60°. */
  readonly course?: number;
  /** 95 % of the error of the course, degrees; absent where the platform states the course. */
  readonly courseAccuracy?: number;
  /** Whether it was derived from the positions, because the fixes state no speed. */
  readonly derived: boolean;
}

/**
 * Texts for a readout: `4.9 km/h` and `67° ENE`; `≈ 4.9 ± 0.6 km/h` and `≈ 67° ± 4° ENE` where they are derived; a dash
 * for what is absent.
 */
export function motionText(motion: Motion | undefined): { readonly speed: string; readonly course: string } {
  if (motion === undefined) return { speed: ABSENT, course: ABSENT };
  const { speed, course, speedAccuracy, courseAccuracy } = motion;
  const [number, unit] = speedText(speed).split(' ');
  const [degrees, point] = courseText(course).split(' ');
  return {
    speed:
      speedAccuracy === undefined
        ? speedText(speed)
        : `≈ ${number} ± ${fixedDecimals(speedAccuracy * 3.6, 1)} ${unit}`,
    course:
      course === undefined || courseAccuracy === undefined
        ? courseText(course)
        : `≈ ${degrees} ± ${Math.ceil(courseAccuracy)}° ${point}`,
  };
}
