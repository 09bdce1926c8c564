import type { Random } from 'aurelian-drift/testing';
import { alongLine, lengthOf } from './rounds.js';
import type { Point, Terrain } from './terrain.js';
import { distanceOf, smooth, type Way } from './ways.js';
import { HAMLETS } from './plan.js';

export interface Building {
  readonly outline: readonly Point[];
  readonly door: Point;
  readonly houseNumber: string;
  readonly street: string;
  readonly locality: string;
}

export interface Street {
  readonly name: string;
  readonly locality: string;
  readonly points: readonly Point[];
}

/** Streets of every hamlet: the lane through it, and short side streets. */
export function streetsOf(ways: readonly Way[], terrain: Terrain, random: Random): Street[] {
  return HAMLETS.flatMap(({ name: locality, at, streets }) => {
    const near = ways
      .filter((way) => way.kind === 'lane')
      .map((way) => clipped(way.points, at, 330))
      .filter((points) => lengthOf(points) > 120);
    const main = near.toSorted((a, b) => lengthOf(b) - lengthOf(a))[0] as Point[];
    const made: Street[] = [{ name: streets[0] as string, locality, points: main }];
    streets.slice(1).forEach((name, i) => {
      // A side street leaves the main one at a right angle, on the side that stays on land and is flatter.
      const share = i === 0 ? 0.36 : 0.68;
      const { at: start, dx, dy } = alongLine(main, lengthOf(main) * share);
      const sides = [1, -1].map((side) => {
        const points: Point[] = [start];
        let [hx, hy] = [-dy * side, dx * side];
        for (let step = 0; step < 9; step++) {
          const turn = (random.uniform() - 0.5) * 0.35;
          [hx, hy] = [hx * Math.cos(turn) - hy * Math.sin(turn), hx * Math.sin(turn) + hy * Math.cos(turn)];
          const [x, y] = points.at(-1) as Point;
          points.push([x + hx * 24, y + hy * 24]);
        }
        const heights = points.map((point) => terrain.heightAt(point));
        return {
          points,
          bad: heights.filter((h) => h < 2.5).length * 100 + Math.max(...heights) - Math.min(...heights),
        };
      });
      const best = sides.toSorted((a, b) => a.bad - b.bad)[0] as { points: Point[] };
      made.push({ name, locality, points: smooth(best.points) });
    });
    return made;
  });
}

/** The part of a line within this many metres of a point. */
function clipped(points: readonly Point[], at: Point, radius: number): Point[] {
  return points.filter((point) => distanceOf(point, at) < radius);
}

/** Houses on both sides of a street, odd numbers on the left, even on the right. */
export function housesAlong(
  street: Street,
  terrain: Terrain,
  taken: Building[],
  roads: readonly (readonly Point[])[],
  random: Random,
): Building[] {
  const houses: Building[] = [];
  const length = lengthOf(street.points);
  const numbers = { left: 1, right: 2 };
  for (let metres = 14; metres < length - 8; metres += 19 + 9 * random.uniform()) {
    for (const side of ['left', 'right'] as const) {
      if (random.uniform() < 0.1) continue;
      const { at, dx, dy } = alongLine(street.points, metres + (side === 'left' ? 0 : 7));
      const sign = side === 'left' ? 1 : -1;
      const back = 13 + 4 * random.uniform();
      const middle: Point = [at[0] - dy * sign * back, at[1] + dx * sign * back];
      const [half, deep] = [4.5 + 3 * random.uniform(), 3.6 + 1.6 * random.uniform()];
      const outline = ([[-1, -1], [1, -1], [1, 1], [-1, 1]] as const).map(([u, v]): Point => [
        middle[0] + dx * u * half - dy * v * deep,
        middle[1] + dy * u * half + dx * v * deep,
      ]); // prettier-ignore
      const onRoad = roads.some((road) =>
        road.some((point, i) => i > 0 && distanceToSegment(middle, road[i - 1] as Point, point) < 10),
      );
      const crowded = [...taken, ...houses].some((house) => distanceOf(house.door, middle) < 19);
      if (terrain.heightAt(middle) < 2 || onRoad || crowded) continue;
      houses.push({
        outline,
        door: middle,
        houseNumber: String(numbers[side]),
        street: street.name,
        locality: street.locality,
      });
      numbers[side] += 2;
    }
  }
  return houses;
}

function distanceToSegment([px, py]: Point, [ax, ay]: Point, [bx, by]: Point): number {
  const [dx, dy] = [bx - ax, by - ay];
  const square = dx * dx + dy * dy;
  const t = square === 0 ? 0 : Math.max(0, Math.min(1, ((px - ax) * dx + (py - ay) * dy) / square));
  return Math.hypot(px - ax - t * dx, py - ay - t * dy);
}
