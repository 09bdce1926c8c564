import { quantileOf } from './quantile.js';

/** Greatest mean step in seconds at which the smoothing of a receiver shows. */
const CLOSE = 2;
/** Ratio of the changes of velocity over one step and over two below which a receiver smooths its output. */
const SMOOTH = 0.3;

/**
 * Whether a receiver smooths its positions over some seconds, as most do: then neighbouring fixes share their error,
 * and the path is rounded at corners. The second differences of white noise are as large over one step as over two;
 * those of a smooth path are much smaller.
 */
export function isReceiverSmoothed(
  times: Float64Array,
  east: Float64Array,
  north: Float64Array,
  count: number,
): boolean {
  if (count < 9) return false;
  const span = (times[count - 1] as number) - (times[0] as number);
  if (span > CLOSE * (count - 1)) return false;
  return bend(east, north, count, 1) < SMOOTH * bend(east, north, count, 2);
}

/** Median of the squared second differences over a number of steps. */
function bend(east: Float64Array, north: Float64Array, count: number, steps: number): number {
  const squares = new Float64Array(count - 2 * steps);
  const second = (along: Float64Array, k: number) =>
    (along[k] as number) - 2 * (along[k + steps] as number) + (along[k + 2 * steps] as number);
  for (let k = 0; k < squares.length; k++) {
    const [x, y] = [second(east, k), second(north, k)];
    squares[k] = x * x + y * y;
  }
  return quantileOf(squares, 0.5);
}
