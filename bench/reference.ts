import { distance, type Fix, type Position } from 'aurelian-drift';
import { RECEPTIONS, type FreshReception } from 'aurelian-drift/testing';

/*
 * A reference filter and smoother of the same kind as the library's, written in plain matrices. They know the noise
 * model exactly, including its correlation in time, and reject no fix. One axis at a time: position, velocity, and the
 * error that successive fixes share.
 */

type Vector = readonly number[];
type Matrix = readonly Vector[];
interface State {
  readonly x: Vector;
  readonly p: Matrix;
}
/** The estimate after a fix, the prediction for it, and the transition that leads to it. */
interface Step {
  readonly known: State;
  readonly predicted: State;
  readonly led: Matrix;
}

const times = (a: Matrix, b: Matrix): number[][] =>
  a.map((row) =>
    (b[0] ?? []).map((_, k) => row.reduce((sum, value, m) => sum + value * (b[m]?.[k] ?? 0), 0)),
  );
const turned = (a: Matrix): number[][] => (a[0] ?? []).map((_, k) => a.map((row) => row[k] ?? 0));
const plus = (a: Matrix, b: Matrix, sign = 1) =>
  a.map((row, k) => row.map((value, m) => value + sign * (b[k]?.[m] ?? 0)));
const on = (a: Matrix, x: Vector) =>
  a.map((row) => row.reduce((sum, value, m) => sum + value * (x[m] ?? 0), 0));

/** Gauss-Jordan elimination with pivoting. */
function inverted(a: Matrix): number[][] {
  const rows = a.map((row, k) => [...row, ...row.map((_, m) => (k === m ? 1 : 0))]);
  const at = (k: number, m: number) => rows[k]?.[m] ?? 0;
  for (let k = 0; k < a.length; k++) {
    let pivot = k;
    for (let n = k + 1; n < a.length; n++) if (Math.abs(at(n, k)) > Math.abs(at(pivot, k))) pivot = n;
    const row = (rows[pivot] ?? []).map((value) => value / at(pivot, k));
    rows[pivot] = rows[k] ?? [];
    rows[k] = row;
    rows.forEach((other, n) => {
      if (n !== k) rows[n] = other.map((value, m) => value - (other[k] ?? 0) * (row[m] ?? 0));
    });
  }
  return rows.map((row) => row.slice(a.length));
}

/** Power of a walker's white acceleration, m²/s³, and standard deviation of a reported velocity, m/s. */
const ACCELERATION = 0.35;
const VELOCITY = 0.12;

function taken({ x, p }: State, measured: Vector, seen: number, error: number): State {
  const shares = on(p, measured);
  const spread = shares.reduce((sum, value, k) => sum + value * (measured[k] ?? 0), error);
  const off = seen - x.reduce((sum, value, k) => sum + value * (measured[k] ?? 0), 0);
  return {
    x: x.map((value, k) => value + ((shares[k] ?? 0) / spread) * off),
    p: p.map((row, k) => row.map((value, m) => value - ((shares[k] ?? 0) * (shares[m] ?? 0)) / spread)),
  };
}

/** The steps of a filter along one axis, from positions in metres and, where known, velocities in m/s. */
function filtered(
  places: readonly number[],
  velocities: readonly (number | undefined)[],
  seconds: readonly number[],
  reception: FreshReception,
): Step[] {
  const { wander, memory, white } = RECEPTIONS[reception];
  const own = Math.max(0.1, white) ** 2;
  const shared = wander ** 2;
  const steps: Step[] = [];
  places.forEach((place, i) => {
    const before = steps.at(-1)?.known;
    const t = seconds[i] ?? 0;
    const keep = Math.exp(-t / memory);
    const q = ACCELERATION;
    const led = [
      [1, t, 0],
      [0, 1, 0],
      [0, 0, keep],
    ];
    const noise = [
      [(q * t ** 3) / 3, (q * t ** 2) / 2, 0],
      [(q * t ** 2) / 2, q * t, 0],
      [0, 0, shared * (1 - keep ** 2)],
    ];
    const predicted: State =
      before === undefined
        ? {
            x: [place, 0, 0],
            p: [
              [shared + own, 0, -shared],
              [0, 9, 0],
              [-shared, 0, shared],
            ],
          }
        : { x: on(led, before.x), p: plus(times(times(led, before.p), turned(led)), noise) };
    let known = before === undefined ? predicted : taken(predicted, [1, 0, 1], place, own);
    const velocity = velocities[i];
    if (velocity !== undefined) known = taken(known, [0, 1, 0], velocity, VELOCITY ** 2);
    steps.push({ known, predicted, led });
  });
  return steps;
}

/** The smoother of Rauch, Tung and Striebel. */
function smoothed(steps: readonly Step[]): Vector[] {
  const all: Vector[] = [];
  let later: { readonly step: Step; readonly state: State } | undefined;
  for (const step of steps.toReversed()) {
    let state = step.known;
    if (later !== undefined) {
      const gain = times(times(state.p, turned(later.step.led)), inverted(later.step.predicted.p));
      const change = later.state.x.map((value, k) => value - (later?.step.predicted.x[k] ?? 0));
      const spread = times(times(gain, plus(later.state.p, later.step.predicted.p, -1)), turned(gain));
      const moved = on(gain, change);
      state = { x: state.x.map((value, k) => value + (moved[k] ?? 0)), p: plus(state.p, spread) };
    }
    later = { step, state };
    all.push(state.x);
  }
  return all.toReversed();
}

/** Estimated position of the user at each fix, live and afterwards. */
export function reference(
  fixes: readonly Fix[],
  reception: FreshReception,
): { live: Position[]; later: Position[] } {
  const origin = fixes[0] as Position;
  // Metres a degree at the start: the walk is a few kilometres long.
  const high = distance({ lat: origin.lat - 0.5, lon: 0 }, { lat: origin.lat + 0.5, lon: 0 });
  const wide = distance({ lat: origin.lat, lon: -0.05 }, { lat: origin.lat, lon: 0.05 }) * 10;
  const seconds = fixes.map(({ time }, i) => (time - (fixes[i - 1]?.time ?? time)) / 1000);
  const along = (part: (angle: number) => number) =>
    fixes.map(({ speed, course }) =>
      speed === undefined || course === undefined ? undefined : speed * part((course * Math.PI) / 180),
    );
  const north = filtered(
    fixes.map(({ lat }) => (lat - origin.lat) * high),
    along(Math.cos),
    seconds,
    reception,
  );
  const east = filtered(
    fixes.map(({ lon }) => (lon - origin.lon) * wide),
    along(Math.sin),
    seconds,
    reception,
  );
  const placed = (ns: readonly Vector[], es: readonly Vector[]) =>
    ns.map((n, i) => ({
      lat: origin.lat + (n[0] ?? NaN) / high,
      lon: origin.lon + (es[i]?.[0] ?? NaN) / wide,
    }));
  const known = ({ known: { x } }: Step) => x;
  return { live: placed(north.map(known), east.map(known)), later: placed(smoothed(north), smoothed(east)) };
}
