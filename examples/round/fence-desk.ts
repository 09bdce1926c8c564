import {
  InputError,
  fencesFrom,
  fencesToGeoJson,
  lengthText,
  timetable,
  type Fence,
  type Position,
} from 'aurelian-drift';
import type { MapLayer, MapSheet } from 'aurelian-drift/map';
import { button, element, write } from '../shared/page.js';
import { PLACES, draftOf, fenceOf, withPlace, type Draft, type DraftKind } from './fence-draft.js';

/* Fences that the user draws on the map, by mouse, touch or keyboard; stored in this browser as GeoJSON. */

const KEPT = 'round/fences';
const VIOLET = '#5b4a8a';
const field = (id: string) => element(id) as HTMLInputElement;

/** The fences that are stored in this browser. What cannot be read is left in the storage. */
export function keptFences(): { readonly fences: readonly Fence[]; readonly reported: string } {
  const kept = localStorage.getItem(KEPT);
  if (kept === null) return { fences: [], reported: '' };
  const read = fencesIn(kept, 'what was kept here');
  return { fences: read.fences ?? [], reported: read.fences === undefined ? read.reported : '' };
}

export interface FenceDeskParts {
  readonly map: MapSheet;
  /** The existing fences. */
  readonly fences: readonly Fence[];
  /** A fence was drawn or redrawn. */
  readonly onFence: (fence: Fence) => void;
  readonly onRemoved: (id: string) => void;
  /** The id of the fence that is being redrawn, if any. */
  readonly onDrawing: (id: string | undefined) => void;
}

/** The part of the field book in which fences are drawn. */
export class FenceDesk {
  readonly #map: MapSheet;
  readonly #parts: FenceDeskParts;
  #fences: readonly Fence[];
  #draft: Draft | undefined;

  constructor(parts: FenceDeskParts) {
    this.#map = parts.map;
    this.#fences = parts.fences;
    this.#parts = parts;
    const on = (id: string, act: () => void) => button(id).addEventListener('click', act);
    for (const kind of ['outline', 'circle', 'lane'] as const) on(`draw-${kind}`, () => this.#begin(kind));
    on('corner-here', () => this.#add(this.#middle()));
    on('corner-undo', () => this.#change({ places: this.#draft?.places.slice(0, -1) ?? [] }));
    on('fence-done', () => this.#done());
    on('fence-cancel', () => this.#end('Nothing was changed.'));
    field('fence-name').addEventListener('input', () => this.#change({ name: field('fence-name').value }));
    field('fence-metres').addEventListener('input', () =>
      this.#change({ metres: field('fence-metres').valueAsNumber }),
    );
    field('fence-open').addEventListener('change', () => void this.#open());
    this.#map.onEvent((event) => {
      if (this.#draft === undefined) return;
      if (event.kind === 'tap' && event.pin === undefined) this.#add(event.at);
      if (event.kind === 'drop' && event.pin.startsWith('corner-'))
        this.#move(Number(event.pin.slice('corner-'.length)), event.at);
    });
  }

  show(): void {
    element('fences').hidden = false;
    this.#list();
  }

  #begin(kind: DraftKind, draft?: Draft): void {
    const id = `own-${Date.now().toString(36)}`;
    this.#draft = draft ?? { id, kind, name: `Fence ${this.#fences.length + 1}`, places: [], metres: 60 };
    field('fence-name').value = this.#draft.name;
    field('fence-metres').value = String(Math.round(this.#draft.metres));
    element('fence-metres-part').hidden = kind === 'outline';
    write('fence-metres-label', kind === 'circle' ? 'Radius in m' : 'Half its width in m');
    element('fence-tools').hidden = false;
    element('fence-start').hidden = true;
    this.#map.steer('free');
    this.#parts.onDrawing(this.#draft.id);
    this.#drawn();
    field('fence-name').focus({ preventScroll: true });
  }

  #add(at: Position | undefined): void {
    if (this.#draft === undefined || at === undefined) return;
    const [, max] = PLACES[this.#draft.kind];
    if (this.#draft.places.length >= max && max > 1) return;
    this.#draft = withPlace(this.#draft, at);
    this.#drawn();
  }

  #move(index: number, at: Position): void {
    const places = this.#draft?.places.map((place, i) => (i === index ? at : place));
    if (places !== undefined) this.#change({ places });
  }

  #change(change: Partial<Draft>): void {
    if (this.#draft === undefined) return;
    this.#draft = { ...this.#draft, ...change };
    this.#drawn();
  }

  /** Shows the draft on the map with movable corners, and its state. */
  #drawn(): void {
    const draft = this.#draft;
    if (draft === undefined) return;
    // Pins that remain keep the keyboard focus.
    draft.places.forEach(({ lat, lon }, i) => {
      const text = draft.kind === 'circle' ? 'Middle' : `Corner ${i + 1}`;
      const looks = { draggable: true, colour: VIOLET, shape: 'square' } as const;
      this.#map.pins.add({ id: `corner-${i}`, lat, lon, group: 'corners', text, ...looks });
    });
    for (const { id, group } of this.#map.pins.all)
      if (group === 'corners' && Number(id.slice('corner-'.length)) >= draft.places.length)
        this.#map.pins.remove(id);
    const { fence, problem } = attempt(draft);
    this.#map.layers.put(
      'draft',
      fence === undefined
        ? unfinished(draft)
        : { kind: 'fences', fences: [fence], paint: { uncertain: new Set([fence.id]) } },
    );
    button('fence-done').disabled = fence === undefined;
    button('corner-undo').disabled = draft.places.length === 0;
    write('fence-events', fence === undefined ? problem : `${readyText(draft)} Drag a corner to move it.`);
  }

  #done(): void {
    const { fence } = this.#draft === undefined ? {} : attempt(this.#draft);
    if (fence === undefined) return;
    this.#fences = [...this.#fences.filter(({ id }) => id !== fence.id), fence];
    this.#parts.onFence(fence);
    this.#end(`${fence.name} is watched now.`);
    this.#keep();
  }

  #end(reported: string): void {
    this.#draft = undefined;
    this.#parts.onDrawing(undefined);
    this.#map.pins.clear('corners');
    this.#map.layers.remove('draft');
    element('fence-tools').hidden = true;
    element('fence-start').hidden = false;
    write('fence-events', reported);
    button('draw-outline').focus({ preventScroll: true });
  }

  #remove(id: string): void {
    this.#fences = this.#fences.filter((fence) => fence.id !== id);
    this.#parts.onRemoved(id);
    this.#keep();
  }

  #keep(): void {
    localStorage.setItem(KEPT, this.#text());
    this.#list();
  }

  #text(): string {
    return JSON.stringify(fencesToGeoJson(this.#fences), undefined, 2);
  }

  #list(): void {
    const entries = this.#fences.map((fence) => {
      const entry = document.createElement('li');
      const name = document.createElement('span');
      name.textContent = fence.name;
      const act = (text: string, run: () => void, disabled = false) => {
        const made = document.createElement('button');
        made.type = 'button';
        made.textContent = text;
        made.disabled = disabled;
        made.setAttribute('aria-label', `${text} ${fence.name}`);
        made.addEventListener('click', run);
        return made;
      };
      const draft = draftOf(fence);
      const edit = act('Change', () => draft && this.#begin(draft.kind, draft), draft === undefined);
      entry.append(
        name,
        edit,
        act('Remove', () => this.#remove(fence.id)),
      );
      return entry;
    });
    element('own-fences').replaceChildren(...entries);
    const save = element('fence-save') as HTMLAnchorElement;
    URL.revokeObjectURL(save.href);
    save.href = URL.createObjectURL(new Blob([this.#text()], { type: 'application/geo+json' }));
    save.hidden = this.#fences.length === 0;
  }

  async #open(): Promise<void> {
    const file = field('fence-open').files?.[0];
    field('fence-open').blur();
    if (file === undefined) return;
    const { fences: read, reported } = fencesIn(await file.text(), file.name);
    write('fence-events', reported);
    field('fence-open').value = '';
    if (read === undefined) return;
    const ids = new Set(read.map(({ id }) => id));
    this.#fences = [...this.#fences.filter(({ id }) => !ids.has(id)), ...read];
    for (const fence of read) this.#parts.onFence(fence);
    this.#keep();
  }

  /** The position in the middle of the map. */
  #middle(): Position | undefined {
    return this.#map.$view.get()?.centre;
  }
}

/** The fences of a file, and a message about it; no fences if the file is refused. */
function fencesIn(text: string, source: string): { fences?: readonly Fence[]; reported: string } {
  const notes: string[] = [];
  try {
    const fences = fencesFrom(JSON.parse(text), { timetable, note: (reported) => notes.push(reported) });
    return {
      fences,
      reported: [
        `${fences.length === 1 ? '1 fence' : `${fences.length} fences`} of ${source}.`,
        ...notes,
      ].join(' '),
    };
  } catch (error) {
    if (!(error instanceof InputError || error instanceof SyntaxError)) throw error;
    return { reported: `${source}: ${error.message}` };
  }
}

function attempt(draft: Draft): { fence?: Fence; problem: string } {
  const missing = PLACES[draft.kind][0] - draft.places.length;
  if (missing > 0) return { problem: howText(draft, missing) };
  try {
    return { fence: fenceOf(draft), problem: '' };
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return { problem: error.reason };
  }
}

function howText({ kind, places }: Draft, missing: number): string {
  const what =
    kind === 'circle' ? 'its middle' : places.length === 0 ? 'its first corner' : `${missing} more`;
  return `Tap the map for ${what}, or move the map and press “Corner here”.`;
}

function readyText({ kind, places, metres }: Draft): string {
  if (kind === 'circle') return `A circle of ${lengthText(metres)}.`;
  return kind === 'lane'
    ? `A lane of ${places.length} corners, ${lengthText(2 * metres)} wide.`
    : `An outline of ${places.length} corners.`;
}

/** The corners so far, while they do not make a fence yet. */
function unfinished({ places }: Draft): MapLayer {
  const line = { kind: 'line', points: places, colour: VIOLET, width: 2.2 } as const;
  return { kind: 'shapes', shapes: places.length < 2 ? [] : [line] };
}
