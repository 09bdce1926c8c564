import { InputError } from '../core/check/input-error.js';
import { suggestion } from '../core/check/suggest.js';
import type { Fence } from '../core/fence/fence.js';
import type { PinOptions } from '../core/scene/layers/pin-from.js';
import type { PinShape } from '../core/scene/layers/pin.js';
import { numberOf, placeOf, placesOf, tellAuthor } from './attribute-values.js';

/** Attributes of `<aurelian-pin>` and `<aurelian-fence>`; those of every element, and `data-…`, may be beside them. */
const PIN = ['at', 'text', 'open', 'draggable', 'colour', 'shape', 'group'];
const FENCE = ['name', 'at', 'radius', 'points', 'line', 'half-width', 'linger'];
const EVERYWHERE = ['id', 'class', 'style', 'slot', 'hidden', 'lang', 'dir', 'title', 'is', 'part'];

/** Whether a change of a page is one of pins or fences in it. */
export function concernsContent({ target, addedNodes, removedNodes }: MutationRecord): boolean {
  const isContent = (node: Node) =>
    node instanceof Element && (node.matches(CONTENT) || node.querySelector(CONTENT) !== null);
  return (
    (target instanceof Element ? target : target.parentElement)?.closest(CONTENT) != null ||
    [...addedNodes, ...removedNodes].some(isContent)
  );
}

const CONTENT = 'aurelian-pin, aurelian-fence';
let unnamed = 0;
/** What was told last of elements with a mistake. */
const told = new WeakMap<Element, string>();
/** Ids of elements without one. */
const ids = new WeakMap<Element, string>();

/** The id of an element of markup, or one that is made for it. */
export function markupId(element: Element): string {
  const own = element.id || ids.get(element) || `markup-${++unnamed}`;
  ids.set(element, own);
  return own;
}

/** Pins in markup: `<aurelian-pin at="44.2,-33.6" text="Hut" open draggable>`. A wrong one is told and left out. */
export function pinsIn(root: Element): (PinOptions & { readonly id: string })[] {
  return read(root, 'aurelian-pin', (pin, has) => {
    check(pin, PIN);
    const shape = has('shape');
    return {
      ...placeOf('<aurelian-pin>: at', has('at') ?? ''),
      id: markupId(pin),
      text: has('text') ?? pin.textContent.trim(),
      open: has('open') !== undefined,
      draggable: has('draggable') !== undefined && has('draggable') !== 'false',
      ...(has('group') !== undefined && { group: has('group') as string }),
      ...(has('colour') !== undefined && { colour: has('colour') as string }),
      ...(shape !== undefined && { shape: shape as PinShape }),
    };
  });
}

/**
 * Fences in markup: `<aurelian-fence name="Hut" at="44.2,-33.6" radius="150">`, one with corners, `points="LAT,LON
 * LAT,LON …"`, or a lane, `line="LAT,LON …" half-width="20"`. A wrong one is told and left out.
 */
export function fencesIn(root: Element): Fence[] {
  return read(root, 'aurelian-fence', (element, has): Fence => {
    check(element, FENCE);
    const id = markupId(element);
    const number = (name: string) => numberOf(`<aurelian-fence>: ${name}`, has(name) ?? '');
    const linger = has('linger') === undefined ? {} : { linger: number('linger') };
    const labels = { id, name: has('name') ?? id, ...linger };
    const points = has('points');
    const line = has('line');
    if (points !== undefined)
      return { ...labels, kind: 'polygon', parts: [[placesOf('<aurelian-fence>: points', points)]] };
    if (line !== undefined)
      return {
        ...labels,
        kind: 'corridor',
        lines: [placesOf('<aurelian-fence>: line', line)],
        halfWidth: number('half-width'),
      };
    const centre = placeOf('<aurelian-fence>: at, points or line', has('at') ?? '');
    return { ...labels, kind: 'circle', centre, radius: number('radius') };
  });
}

function read<T>(
  root: Element,
  name: string,
  make: (element: Element, has: (name: string) => string | undefined) => T,
): T[] {
  return Array.from(root.querySelectorAll(name)).flatMap((element) => {
    try {
      return [make(element, (attribute) => element.getAttribute(attribute) ?? undefined)];
    } catch (error) {
      const message = (error as Error).message;
      if (told.get(element) !== message) tellAuthor(message);
      told.set(element, message);
      return [];
    }
  });
}

function check(element: Element, known: readonly string[]): void {
  for (const { name } of element.attributes) {
    if (known.includes(name) || EVERYWHERE.includes(name) || /^(?:data|aria)-/.test(name)) continue;
    throw new InputError(
      'unknown-option',
      `<${element.localName}> has no attribute "${name}", ${suggestion(name, known)}`,
    );
  }
}
