import { InputError } from '../../check/input-error.js';
import { formatValue } from '../../check/number.js';
import { callable, checkOptions } from '../../check/options.js';
import { closest } from '../../check/suggest.js';
import { FENCE_NUMBERS } from '../../fence/fence-numbers.js';
import type { Fence, PolygonPart } from '../../fence/fence.js';
import { mendOutline } from '../../fence/outline.js';
import type { Timetable, TimetableOptions } from '../../fence/timetable.js';
import { coordinateOf, coordinatesOf, eachFeature, listOf, partsOf, type Feature } from './geojson.js';

type Path = readonly (string | number)[];
type NumberName = keyof typeof FENCE_NUMBERS;

/** Options of `fencesFrom`. */
export interface FencesOptions {
  /** Receives the corrections of an outline, in words with the name of the fence. Default: not reported. */
  readonly note?: (text: string) => void;
  /**
   * The function `timetable`, for fences with a `when`: they are watched at those times only. Default: a fence with a
   * `when` is refused.
   */
  readonly timetable?: (options: TimetableOptions) => Timetable;
}

/**
 * Reads the fences of a parsed GeoJSON document: polygons, points with a `radius`, and lines with a `halfWidth`, in
 * metres; optionally with `linger` in seconds, a `certainty` of their own, and a `when`. `id` and `name` are those of
 * the feature or its properties; otherwise they are numbered.
 *
 * @throws {InputError} that names all invalid fences at once, with their problems.
 */
export function fencesFrom(document: unknown, options: FencesOptions = {}): Fence[] {
  checkOptions('fencesFrom', options, { note: callable, timetable: callable });
  const fences: Fence[] = [];
  const problems: InputError[] = [];
  const seen = new Map<string, string>();
  let index = 0;
  for (const feature of eachFeature(document, (error) => problems.push(error))) {
    try {
      const { id, name } = labelsOf(feature, ++index);
      const other = seen.get(id);
      if (other !== undefined)
        problems.push(unfit(name, ` has the same id "${id}" as "${other}"`, [...feature.path, 'id']));
      seen.set(id, name);
      const before = problems.length;
      const fence = fenceOf(feature, { id, name }, options, problems);
      if (problems.length === before) fences.push(fence);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      problems.push(error);
    }
  }
  const [problem] = problems;
  if (problem !== undefined && problems.length === 1) throw problem;
  if (problem !== undefined)
    throw new InputError(
      problem.kind,
      `${problems.length} problems: ${problems.map(({ message }) => message).join('; ')}`,
    );
  if (fences.length === 0) throw new InputError('nothing-inside', 'there is no fence in it');
  return fences;
}

function labelsOf({ id: own, properties }: Feature, index: number): { id: string; name: string } {
  const id = own ?? textOf(properties['id']) ?? `fence-${index}`;
  return { id, name: textOf(properties['name']) ?? id };
}

/** @param problems takes the problems of the numbers; others are thrown. */
function fenceOf(
  feature: Feature,
  { id, name }: { readonly id: string; readonly name: string },
  { note, timetable }: FencesOptions,
  problems: InputError[],
): Fence {
  const { geometry, properties, path, coordinatesPath } = feature;
  const bad = (what: string) =>
    unfit(name, ` ${what}; a fence is a Polygon, a Point with a radius, or a LineString with a halfWidth`, [
      ...path,
      'geometry',
    ]);
  const mended = (rings: unknown, at: Path) => partOf(rings, at, name, note);
  if (geometry === null) throw bad('has no geometry');
  const { type, coordinates } = geometry;
  const number = <Key extends NumberName>(key: Key, kind?: string) => {
    const value = properties[key] ?? undefined;
    const problem =
      value === undefined && kind === undefined ? undefined : numberProblem(feature, name, key, kind);
    if (problem !== undefined) problems.push(problem);
    return (value === undefined ? {} : { [key]: value }) as Record<Key, number>;
  };
  const { when } = properties;
  const labels = {
    id,
    name,
    ...number('linger'),
    ...number('certainty'),
    ...(when !== undefined && when !== null && { when: whenOf(feature, name, timetable) }),
  };
  if (type === 'Point') {
    const { lat, lon } = coordinateOf(coordinates, coordinatesPath);
    return { kind: 'circle', ...labels, centre: { lat, lon }, ...number('radius', type) };
  }
  if (type === 'Polygon')
    return { kind: 'polygon', ...labels, parts: [mended(coordinates, coordinatesPath)] };
  if (type === 'MultiPolygon') {
    const parts = coordinates.map((part, i) => mended(part, [...coordinatesPath, i]));
    return { kind: 'polygon', ...labels, parts };
  }
  if (type === 'MultiPoint') throw bad(`is a ${type}`);
  const lines =
    type === 'LineString'
      ? [coordinatesOf(coordinates, coordinatesPath)]
      : partsOf(coordinates, coordinatesPath);
  if (lines.length === 0 || lines.some((line) => line.length < 2))
    throw bad('has a line with fewer than two points');
  return { kind: 'corridor', ...labels, lines, ...number('halfWidth', type) };
}

function unfit(name: string, what: string, path: Path): InputError {
  return new InputError('bad-value', `fence "${name}"${what}`, { path });
}

/** @param kind kind of the geometry that needs the number. */
function numberProblem(
  { properties, path }: Feature,
  name: string,
  key: NumberName,
  kind?: string,
): InputError | undefined {
  const value = properties[key] ?? undefined;
  const problem = FENCE_NUMBERS[key](value);
  if (problem === undefined) return undefined;
  const at = [...path, 'properties', key];
  if (value !== undefined || kind === undefined) return unfit(name, `: ${key} ${problem}`, at);
  const near = closest(key, Object.keys(properties));
  const hint = near === undefined ? '' : `; is "${near}" meant for it?`;
  return unfit(name, ` is a ${kind} and needs a ${key} in metres${hint}`, at);
}

function whenOf(
  { properties, path }: Feature,
  name: string,
  timetable: FencesOptions['timetable'],
): Timetable {
  const at = [...path, 'properties', 'when'];
  const { when } = properties;
  if (timetable === undefined)
    throw unfit(name, ': it has times when it is watched; pass { timetable } to fencesFrom', at);
  if (!(when instanceof Object))
    throw unfit(name, `: when must hold hours, weekdays or dates, got ${formatValue(when)}`, at);
  try {
    return timetable(when);
  } catch (error) {
    throw error instanceof InputError ? unfit(name, `: ${error.reason}`, at) : error;
  }
}

function partOf(value: unknown, path: Path, name: string, note?: (text: string) => void): PolygonPart {
  const rings = partsOf(listOf(value, path), path);
  if (rings.length === 0) throw unfit(name, ' has no outline', path);
  return rings.map((ring, i) => {
    const outline = mendOutline(ring);
    if ('problem' in outline) throw unfit(name, ` ${outline.problem}`, [...path, i]);
    for (const what of outline.mended) note?.(`fence "${name}" ${what}: mended`);
    return outline.ring;
  });
}

function textOf(value: unknown): string | undefined {
  if (typeof value === 'number') return String(value);
  return typeof value === 'string' && value !== '' ? value : undefined;
}
