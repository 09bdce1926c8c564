/* Makes the demo island: `npm run island`. The same seed gives the same files. */
import { writeFileSync } from 'node:fs';
import simplify from 'simplify-js';
import { randomFrom } from 'aurelian-drift/testing';
import { areaAround, areasAbove, type Area } from './areas.js';
import { housesAlong, streetsOf, type Building } from './buildings.js';
import {
  FORD_LANE,
  HAMLETS,
  HILLS,
  LANES,
  ONE_WAY,
  PATHS,
  ROUNDS,
  SPOTS,
  SPRINGS,
  VANESKAN,
  WATERS,
} from './plan.js';
import { RoundPlanner, alongLine, lengthOf } from './rounds.js';
import { drainage, streamFrom } from './streams.js';
import { cellOf, makeTerrain, type Point } from './terrain.js';
import { WayNetwork, distanceOf } from './ways.js';

const SEED = 44;
const CENTRE = { lat: 44.2, lon: -33.6 };
/** Metres a degree at the island's latitude on WGS 84; the island is small enough for one scale. */
const METRES_NORTH = 111_117;
const METRES_EAST = 79_955;

const terrain = makeTerrain(SEED);
const random = randomFrom(SEED + 1);
/** Number of fords so far: the island has one. */
let fords = 0;
const { height, lake } = terrain;

function lonLat([x, y]: Point): [number, number] {
  return [
    Number((CENTRE.lon + x / METRES_EAST).toFixed(6)),
    Number((CENTRE.lat + y / METRES_NORTH).toFixed(6)),
  ];
}

interface Feature {
  type: 'Feature';
  id?: string;
  geometry: { type: string; coordinates: unknown };
  properties: Record<string, unknown>;
}

/** A way with a vertex where a street leaves it. */
function withJunctions(points: readonly Point[]): Point[] {
  return points.flatMap((point, i) => {
    const before = points[i - 1];
    if (before === undefined) return [point];
    const length = distanceOf(before, point);
    const leaving = streets
      .map((street) => street.points[0] as Point)
      .filter((start) => Math.abs(distanceOf(before, start) + distanceOf(start, point) - length) < 0.01)
      .filter((start) => distanceOf(before, start) > 0.01 && distanceOf(start, point) > 0.01);
    return [...leaving.toSorted((a, b) => distanceOf(before, a) - distanceOf(before, b)), point];
  });
}

/** A lane in parts: where it meets a stream, twenty metres are a ford. */
function withFord(name: string | undefined, points: Point[]): { part: Point[]; ford: boolean }[] {
  const whole = [{ part: points, ford: false }];
  if (name !== FORD_LANE) return whole;
  for (let i = 1; i < points.length; i++) {
    const [a, b] = [points[i - 1] as Point, points[i] as Point];
    const met = streams.some(({ geometry }) => {
      const stream = geometry.coordinates as [number, number][];
      return stream.some(
        (_, k) => k > 0 && crosses(lonLat(a), lonLat(b), stream[k - 1] as Point, stream[k] as Point),
      );
    });
    if (!met || fords++ > 0) continue;
    const length = distanceOf(a, b);
    const share = (metres: number): Point => [
      a[0] + ((b[0] - a[0]) * metres) / length,
      a[1] + ((b[1] - a[1]) * metres) / length,
    ];
    const [start, end] = [share(Math.max(1, length / 2 - 10)), share(Math.min(length - 1, length / 2 + 10))];
    return [
      { part: [...points.slice(0, i), start], ford: false },
      { part: [start, end], ford: true },
      { part: [end, ...points.slice(i)], ford: false },
    ];
  }
  return whole;
}

function crosses(a: Point, b: Point, c: Point, d: Point): boolean {
  const side = ([px, py]: Point, [qx, qy]: Point, [rx, ry]: Point) =>
    Math.sign((qx - px) * (ry - py) - (qy - py) * (rx - px));
  return side(a, b, c) !== side(a, b, d) && side(c, d, a) !== side(c, d, b);
}

/** The point of a line that is nearest to a place some metres along it. */
function nearestOf(line: readonly Point[], metres: number): Point {
  const { at } = alongLine(line, metres);
  return line.toSorted((a, b) => distanceOf(a, at) - distanceOf(b, at))[0] as Point;
}

/** A ring that is closed and oriented as RFC 7946 requires: counter-clockwise outside, clockwise inside. */
function ringOf(ring: readonly Point[], outer: boolean): [number, number][] {
  const open = ring.filter((point, i) => i === 0 || String(point) !== String(ring[0]));
  let twice = 0;
  open.forEach(([x, y], i) => {
    const [px, py] = open.at(i - 1) as Point;
    twice += px * y - x * py;
  });
  const wound = twice > 0 === outer ? open : open.toReversed();
  return [...wound, wound[0] as Point].map(lonLat);
}

function areaFeature(kind: string, area: Area, properties: Record<string, unknown> = {}): Feature {
  const coordinates = area.map((ring, i) => ringOf(ring, i === 0));
  return { type: 'Feature', geometry: { type: 'Polygon', coordinates }, properties: { kind, ...properties } };
}

function lineFeature(
  kind: string,
  points: readonly Point[],
  properties: Record<string, unknown> = {},
): Feature {
  return {
    type: 'Feature',
    geometry: { type: 'LineString', coordinates: points.map(lonLat) },
    properties: { kind, ...properties },
  };
}

function pointFeature(kind: string, at: Point, properties: Record<string, unknown>): Feature {
  return {
    type: 'Feature',
    geometry: { type: 'Point', coordinates: lonLat(at) },
    properties: { kind, ...properties },
  };
}

function save(name: string, features: readonly Feature[], more: object = {}): void {
  const lines = features.map((feature) => JSON.stringify(feature)).join(',\n');
  writeFileSync(
    new URL(`../${name}.geojson`, import.meta.url),
    `{"type":"FeatureCollection",${JSON.stringify(more).slice(1, -1)}${Object.keys(more).length > 0 ? ',' : ''}` +
      `"features":[\n${lines}\n]}\n`,
  );
}

// Ways: lanes between the hamlets first, then paths, which join them.
const network = new WayNetwork(terrain);
const placeOf = (name: string) => HAMLETS.find((hamlet) => hamlet.name === name)?.at as Point;
for (const [from, to, name] of LANES) network.lay('lane', placeOf(from), placeOf(to), name);
for (const path of PATHS) path.slice(1).forEach((to, i) => network.lay('path', path[i] as Point, to));
const ways = network.ways();
const planner = new RoundPlanner(ways);
const streets = streetsOf(ways, terrain, random);
const roads = [...ways.map((way) => way.points), ...streets.map((street) => street.points)];
const houses: Building[] = [];
for (const street of streets) houses.push(...housesAlong(street, terrain, houses, roads, random));

// Land cover. Each cover excludes ground on which it would not grow.
const masked = (name: string, wavelength: number, fits: (h: number, cell: number) => number) => {
  const field = terrain.field(name, wavelength);
  return field.map((value, cell) => {
    const h = height[cell] as number;
    const shore = Math.min(1, (h - 2) / 4);
    const dry = Math.min(1, -(lake[cell] as number) * 4);
    return Math.min(value + fits(h, cell), shore, dry);
  });
};
const nearHamlet = new Float64Array(height.length);
const houseField = terrain.field('gardens', 260);
for (const { door } of houses) {
  for (let dx = -160; dx <= 160; dx += 20) {
    for (let dy = -160; dy <= 160; dy += 20) {
      const cell = cellOf([door[0] + dx, door[1] + dy]);
      nearHamlet[cell] = Math.max(nearHamlet[cell] as number, 1 - Math.hypot(dx, dy) / 160);
    }
  }
}
const clear = (cell: number) => -2.5 * (nearHamlet[cell] as number);
const east = (cell: number) => ((cell % 560) - 280) / 280;
const woods = masked(
  'woods',
  980,
  (h, cell) => -0.36 - Math.abs(h - 45) / 90 + clear(cell) - 0.5 * Math.max(0, east(cell) - 0.35),
);
const heath = masked('heath', 900, (h, cell) => (h - 78) / 26 + clear(cell));
const scrub = masked('scrub', 480, (h, cell) => -0.62 - Math.abs(h - 26) / 120 + clear(cell));
const dune = terrain.field('dune', 700).map((value, cell) => {
  const h = height[cell] as number;
  const low = 1.3 - Math.abs(h - 4.5) / 5;
  return Math.min(low, 0.35 * value + (east(cell) - 0.34) * 4 - Math.max(0, (h - 9) / 6), (h - 0.1) * 2);
});
const beach = terrain.field('beach', 380).map((value, cell) => {
  const h = height[cell] as number;
  return Math.min(value + 0.05, (h - 0.02) * 2, (2.6 - h) * 2);
});
const gardens = houseField.map((value, cell) =>
  Math.min((nearHamlet[cell] as number) - 0.62 + 0.08 * value, ((height[cell] as number) - 3) / 3),
);

const ground: Feature[] = [];
const coast = areasAbove(height, 0, 2500);
for (const area of coast) ground.push(areaFeature('land', area));
const covers = [
  ['dune', dune, 9000],
  ['beach', beach, 2500],
  ['scrub', scrub, 7000],
  ['heath', heath, 9000],
  ['wood', woods, 7000],
  ['garden', gardens, 3000],
] as const;
for (const [kind, field, min] of covers)
  for (const area of areasAbove(field, 0, min)) ground.push(areaFeature(kind, area));
for (let level = 20; level < 160; level += 20) {
  for (const area of areasAbove(height, level, 20_000)) {
    for (const ring of area)
      ground.push(lineFeature('contour', [...ring, ring[0] as Point], { height: level }));
  }
}
for (const area of areasAbove(lake, 0, 5000)) ground.push(areaFeature('lake', area, { name: 'Issel Tarn' }));
const wet = new Set<number>();
const down = drainage(terrain);
for (const spring of SPRINGS) ground.push(lineFeature('stream', streamFrom(spring, down, terrain, wet)));
for (const way of ways) ground.push(lineFeature(way.kind, withJunctions(way.points)));
const sideStreets = streets.filter(
  (street) =>
    !ways.some(
      (way) =>
        way.points.includes(street.points[0] as Point) && way.points.includes(street.points[1] as Point),
    ),
);
for (const { name, locality, points } of sideStreets)
  ground.push(lineFeature('lane', points, { name, locality }));
for (const { outline } of houses) ground.push(areaFeature('building', [outline]));
for (const { name, at } of HAMLETS) ground.push(pointFeature('hamlet', at, { name }));
for (const { name, at } of HILLS) {
  // The name is placed at the highest point nearby.
  let best = at;
  for (let dx = -300; dx <= 300; dx += 20) {
    for (let dy = -300; dy <= 300; dy += 20) {
      const point: Point = [at[0] + dx, at[1] + dy];
      if (terrain.heightAt(point) > terrain.heightAt(best)) best = point;
    }
  }
  ground.push(pointFeature('hill', best, { name, height: Math.round(terrain.heightAt(best)) }));
}
for (const { name, at } of WATERS)
  ground.push(pointFeature(name.endsWith('Tarn') ? 'tarn' : 'sea', at, { name }));
save('vanesk', ground);

// Rounds, and the sections and closed banks along them.
const rounds: Feature[] = [];
const sections: Feature[] = [];
for (const { id, name, past, sections: plans, banks = [] } of ROUNDS) {
  const line = planner.line(past);
  const length = lengthOf(line);
  const coordinates = line.map((point) => [...lonLat(point), Number(terrain.heightAt(point).toFixed(1))]);
  rounds.push({
    type: 'Feature',
    id,
    geometry: { type: 'LineString', coordinates },
    properties: { name, length: Math.round(length) },
  });
  for (const plan of plans) {
    const stretch = Array.from(
      { length: 41 },
      (_, i) => alongLine(line, (plan.from + ((plan.to - plan.from) * i) / 40) * length).at,
    );
    const [phase, turn] = [random.uniform() * 6, random.uniform() * 6];
    const outline = areaAround(
      stretch,
      (x, y) => 82 + 26 * Math.sin(x / 75 + phase) + 22 * Math.sin(y / 62 + turn),
    );
    sections.push({
      ...areaFeature('section', [outline], { name: plan.name, cover: plan.cover, round: id }),
      id: plan.name.toLowerCase().replaceAll(/[^a-z]+/g, '-'),
    });
  }
  for (const bank of banks) {
    const { at, dx, dy } = alongLine(line, bank.at * length);
    const middle: Point = [at[0] - dy * bank.left, at[1] + dx * bank.left];
    const outline = Array.from({ length: 20 }, (_, i): Point => {
      const angle = (i / 20) * 2 * Math.PI;
      const [u, v] = [
        Math.cos(angle) * (78 + 14 * Math.sin(angle * 3)),
        Math.sin(angle) * (44 + 8 * Math.cos(angle * 2)),
      ];
      return [middle[0] + dx * u - dy * v, middle[1] + dy * u + dx * v];
    });
    sections.push({
      ...areaFeature('bank', [outline], { name: bank.name, closed: true, round: id }),
      id: bank.name.toLowerCase().replaceAll(/[^a-z]+/g, '-'),
    });
  }
}
save('rounds', rounds);
save(
  'banks',
  sections.filter(({ properties }) => properties['kind'] === 'bank'),
);

// The network: lanes and paths by name, a ford, a street with one direction, and an old path over a closed bank.
const streams = ground.filter(({ properties }) => properties['kind'] === 'stream');
const lanes: Feature[] = ways.flatMap(({ kind, name, points }) =>
  withFord(name, withJunctions(points)).map(({ part, ford }) =>
    lineFeature(kind, part, { ...(name !== undefined && { name }), ...(ford && { ford }) }),
  ),
);
for (const { name, points } of sideStreets)
  lanes.push(lineFeature('street', points, { name, ...(name === ONE_WAY && { oneway: true }) }));
for (const { id, banks = [], past } of ROUNDS.slice(1, 2)) {
  const line = planner.line(past);
  const [bank] = banks;
  if (bank === undefined) throw new Error(`${id} has no bank`);
  const { at, dx, dy } = alongLine(line, bank.at * lengthOf(line));
  const joins = [-1, 1].map((side) => nearestOf(line, bank.at * lengthOf(line) + side * 260));
  const over: Point = [at[0] - dy * bank.left, at[1] + dx * bank.left];
  lanes.push(lineFeature('path', [joins[0] as Point, over, joins[1] as Point], { name: 'Old Bank Path' }));
}
save('lanes', lanes);
save('sections', sections);

// Addresses.
const region = 'Vanesk';
const postalCodes = new Map(HAMLETS.map(({ name }, i) => [name, `VK ${10 + i}`]));
const area = (locality: string) => ({ locality, region, postalCode: postalCodes.get(locality) });
/** A name, and its Vaneskan form if it has one. */
const named = (name: string) => ({
  name,
  ...(Object.hasOwn(VANESKAN, name) && { names: { 'art-x-vanesk': VANESKAN[name] } }),
});
const addresses: Feature[] = HAMLETS.map(({ name, at, streets: of }) =>
  pointFeature('hamlet', at, {
    ...named(name),
    region,
    postalCode: postalCodes.get(name),
    prominence: 30 + 20 * of.length,
  }),
);
for (const { door, houseNumber, street, locality } of houses)
  addresses.push(pointFeature('house', door, { houseNumber, street, ...area(locality) }));
for (const { name, locality, points } of streets)
  addresses.push(lineFeature('street', points, { ...named(name), ...area(locality) }));
const outline = coast.toSorted((a, b) => (b[0]?.length ?? 0) - (a[0]?.length ?? 0))[0] as Area;
addresses.push(
  areaFeature(
    'island',
    outline.map((ring) =>
      simplify(
        ring.map(([x, y]) => ({ x, y })),
        12,
        true,
      ).map(({ x, y }): Point => [x, y]),
    ),
    { ...named(region), prominence: 100 },
  ),
);
for (const { properties, geometry } of ground.filter((each) => each.properties['kind'] === 'hill')) {
  addresses.push({
    type: 'Feature',
    geometry,
    properties: { ...properties, ...named(String(properties['name'])), radius: 250, prominence: 60 },
  });
}
for (const { name, at, radius } of WATERS) {
  const kind = (name.split(' ').at(-1) ?? name).toLowerCase();
  addresses.push(pointFeature(kind, at, { ...named(name), radius, prominence: 40 }));
}
for (const { name, kind, at, prominence, details } of SPOTS) {
  const house = Array.isArray(at) ? undefined : (at as Extract<typeof at, { street: string }>);
  const door = houses.find(
    (each) =>
      each.houseNumber === house?.houseNumber &&
      each.street === house.street &&
      each.locality === house.locality,
  )?.door;
  const place = house === undefined ? (at as Point) : door;
  if (place === undefined || terrain.heightAt(place) < 1.5) throw new Error(`${name} is not on dry land`);
  addresses.push(
    pointFeature(kind, place, {
      ...named(name),
      ...(house !== undefined && {
        houseNumber: house.houseNumber,
        street: house.street,
        ...area(house.locality),
      }),
      prominence,
      ...details,
    }),
  );
}
save('places', addresses, { language: 'en' });
const total = rounds
  .map((round) => `${String(round.properties['name'])} ${String(round.properties['length'])} m`)
  .join(', ');
console.log(
  `${ground.length} features on the ground, ${sections.length} fences, ${houses.length} houses; ${total}`,
);
