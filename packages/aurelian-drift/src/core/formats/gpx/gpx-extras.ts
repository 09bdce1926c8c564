import type { Extras } from '../../trail/extras.js';
import { GPX_NAMESPACE } from './gpx-words.js';
import { xmlText } from '../xml.js';

/** Order of the elements of the standard, after `ele` and `time`: in a point, a track and a route. */
const OF_POINT = [
  'magvar',
  'geoidheight',
  'name',
  'cmt',
  'desc',
  'src',
  'link',
  'sym',
  'type',
  'fix',
  'sat',
  'hdop',
  'vdop',
  'pdop',
  'ageofdgpsdata',
  'dgpsid',
] as const;
const OF_TRACK = ['name', 'cmt', 'desc', 'src', 'link', 'number', 'type'] as const;

/** Key of an element of the standard. */
export function gpxKey(name: string): string {
  return `{${GPX_NAMESPACE}}${name}`;
}

/**
 * Children of a point in the order of the standard: the elements of GPX among the additional data, then all others as
 * extensions, after our own.
 */
export function pointChildren(extras: Extras, ownExtensions: string): string {
  return standardChildren(extras, OF_POINT) + extensionsText(ownExtensions + foreignText(extras), '');
}

/** The same for a track or a route, one child per line. */
export function trackChildren(extras: Extras, ownExtensions: string): string {
  return standardChildren(extras, OF_TRACK, '\n') + extensionsText(ownExtensions + foreignText(extras), '\n');
}

function extensionsText(inside: string, end: string): string {
  return inside === '' ? '' : `<extensions>${inside}</extensions>${end}`;
}

function standardChildren(extras: Extras, order: readonly string[], end = ''): string {
  let text = '';
  for (const name of order) {
    const value = extras[gpxKey(name)];
    if (value === undefined) continue;
    text += name === 'link' ? linkText(value, extras) : `<${name}>${xmlText(value)}</${name}>`;
    text += end;
  }
  return text;
}

function linkText(address: string, extras: Extras): string {
  const inner = (name: string) => {
    const value = extras[`${gpxKey('link')}/${gpxKey(name)}`];
    return value === undefined ? '' : `<${name}>${xmlText(value)}</${name}>`;
  };
  return `<link href="${xmlText(address)}">${inner('text')}${inner('type')}</link>`;
}

/** An element of another writer: its text, or its nested elements. */
type Branch = Map<string, Branch | string>;

/**
 * Additional data with their original nesting, in one order for all source files; each element states its namespace
 * where it changes.
 */
function foreignText(extras: Extras): string {
  const root: Branch = new Map<string, Branch | string>();
  for (const [key, value] of Object.entries(extras).toSorted()) {
    const path = key.split(/\/(?=\{)/);
    if (path[0]?.startsWith(`{${GPX_NAMESPACE}}`) === true || !path.every((step) => STEP.test(step)))
      continue;
    let branch = root;
    for (const step of path.slice(0, -1)) {
      const next = branch.get(step);
      const inner: Branch = typeof next === 'object' ? next : new Map<string, Branch | string>();
      branch.set(step, inner);
      branch = inner;
    }
    branch.set(path.at(-1) ?? '', value);
  }
  return branchText(root, undefined);
}

/** A namespace that is not empty, and a name that XML allows. */
const STEP = /^\{([^}]+)\}([\p{L}_][\p{L}\p{N}._-]*)$/u;

function branchText(branch: Branch, around: string | undefined): string {
  let text = '';
  for (const [step, inside] of branch) {
    const [, namespace = '', name = ''] = STEP.exec(step) ?? [];
    const declaration = namespace === around ? '' : ` xmlns="${xmlText(namespace)}"`;
    const content = typeof inside === 'string' ? xmlText(inside) : branchText(inside, namespace);
    text += `<${name}${declaration}>${content}</${name}>`;
  }
  return text;
}
