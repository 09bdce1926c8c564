import { metresPerDegree } from '../geodesy/local-scale.js';
import { DEGREES, RADIANS, wrapBearing, wrapLongitude } from '../geodesy/wgs84.js';
import type { LaneGraph, Stretch } from './lane-graph.js';
import type { Travel } from './travel.js';
import type { Turn } from './turns.js';
import type { WayStep } from './way.js';

/** Metres of a lane before and after a junction by which a turn is judged. */
const LOOK = 15;
/** Degrees up to which a turn is straight on, slight, a turn, sharp. */
const STRAIGHT = 25;
const SLIGHT = 50;
const TURN = 120;
const SHARP = 160;

/** A leg of a way, from one of its given places to the next. */
export interface Leg {
  readonly stretches: readonly Stretch[];
}

/** Steps of a way: where a choice is made, and where the name of the lane changes. */
export function stepsOf(travel: Travel, legs: readonly Leg[]): WayStep[] {
  const { network } = travel;
  const steps: WayStep[] = [];
  let along = 0;
  let seconds = 0;
  const begin = (turn: Turn, stretch: Stretch) => {
    const { name, kind } = network.lane(stretch.edge);
    steps.push({
      turn,
      at: network.placeOn(stretch.edge, stretch.from),
      along,
      metres: along,
      seconds,
      course: courseAt(network, stretch, 'start'),
      ...(typeof name === 'string' && name !== '' && { name }),
      ...(typeof kind === 'string' && { kind }),
    });
  };
  legs.forEach(({ stretches }, leg) => {
    stretches.forEach((stretch, i) => {
      const before = stretches[i - 1];
      if (before === undefined) begin(leg === 0 ? 'start' : 'via', stretch);
      else {
        const turn = turnAt(travel, before, stretch);
        if (turn !== undefined) begin(turn, stretch);
      }
      const metres = Math.abs(stretch.to - stretch.from);
      along += metres;
      seconds += metres / (travel.speed(arcOf(stretch)) || Infinity);
    });
  });
  const last = legs.at(-1)?.stretches.at(-1);
  if (last !== undefined) {
    const at = network.placeOn(last.edge, last.to);
    steps.push({ turn: 'arrive', at, along, metres: along, seconds, course: courseAt(network, last, 'end') });
  }
  // Each step carried the sums at its start; it lasts to the next.
  return steps.map((step, i) => {
    const next = steps[i + 1] ?? step;
    return { ...step, metres: next.metres - step.metres, seconds: next.seconds - step.seconds };
  });
}

/** The arc that a stretch travels. */
export function arcOf({ edge, from, to }: Stretch): number {
  return 2 * edge + Number(to < from);
}

/** The turn between two stretches; `undefined` where nobody needs to be told. */
function turnAt(travel: Travel, before: Stretch, after: Stretch): Turn | undefined {
  if (before.edge === after.edge) return 'back';
  const { network } = travel;
  const came = courseAt(network, before, 'end');
  const angle = angleBetween(came, courseAt(network, after, 'start'));
  const [from, to] = [network.lane(before.edge), network.lane(after.edge)];
  const changes = from['name'] !== to['name'] || (to['name'] === undefined && from['kind'] !== to['kind']);
  if (changes) return turnOf(angle);
  if (Math.abs(angle) <= STRAIGHT) return undefined;
  const others = exits(travel, network.headOf(arcOf(before))).filter(
    (arc) => arc !== arcOf(after) && arc >> 1 !== before.edge,
  );
  // A lane that keeps its name round a bend is followed without a word, unless another leads straighter on.
  const isClear =
    others.length === 0 ||
    (Math.abs(angle) <= SLIGHT &&
      from['name'] !== undefined &&
      others.every((arc) => {
        const turned = angleBetween(came, courseAt(network, network.whole(arc), 'start'));
        return Math.abs(turned) > Math.abs(angle) + STRAIGHT;
      }));
  return isClear ? undefined : turnOf(angle);
}

/** Arcs that leave a node and are open. */
function exits(travel: Travel, node: number): number[] {
  return travel.network.arcsFrom([node]).filter((arc) => travel.speed(arc) > 0);
}

function turnOf(angle: number): Turn {
  const size = Math.abs(angle);
  if (size <= STRAIGHT) return 'straight';
  if (size > SHARP) return 'back';
  const side = angle < 0 ? 'left' : 'right';
  return size <= SLIGHT ? `slight-${side}` : size <= TURN ? side : `sharp-${side}`;
}

/** Degrees from one course to another: negative to the left. */
function angleBetween(from: number, to: number): number {
  const turned = (to - from) * RADIANS;
  return Math.atan2(Math.sin(turned), Math.cos(turned)) / RADIANS;
}

/** Direction of travel over the first or last metres of a stretch. */
function courseAt(graph: LaneGraph, { edge, from, to }: Stretch, where: 'start' | 'end'): number {
  const sign = Math.sign(to - from) || 1;
  const reach = Math.min(LOOK, Math.abs(to - from) || LOOK);
  const [a, b] = where === 'start' ? [from, from + sign * reach] : [to - sign * reach, to];
  const [start, end] = [graph.placeOn(edge, a), graph.placeOn(edge, b)];
  const scale = metresPerDegree(start.lat);
  const east = wrapLongitude(end.lon - start.lon) * scale.east;
  return wrapBearing(Math.atan2(east, (end.lat - start.lat) * scale.north) * DEGREES);
}
