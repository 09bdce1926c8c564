import {
  durationText,
  fencesFrom,
  lengthText,
  trailsByDay,
  writeGpx,
  type Trail,
  type TrailEntry,
  type TrailStore,
} from 'aurelian-drift';
import type { MapSheet } from 'aurelian-drift/map';
import { saveFile, saveTracks } from 'aurelian-drift/page';
import { CREDIT, islandGround, load } from '../shared/island.js';
import { element, piece, pressable, write } from '../shared/page.js';
import { closeMap, onMap, theMap } from './round-map.js';

export interface TrailsDeskParts {
  readonly store: TrailStore;
  /** Whether a round is being walked: its map stays. */
  readonly walking: () => boolean;
  /** Told how many there are after the user has deleted one. */
  readonly onDeleted: (trails: number) => void;
}

/** The part of the field book about the trails that are kept: by day, to open, save, report, share and delete. */
export class TrailsDesk {
  readonly #parts: TrailsDeskParts;
  /** The trails that are open on the map. */
  readonly #open = new Map<string, Trail>();

  constructor(parts: TrailsDeskParts) {
    this.#parts = parts;
    element('trails-close').addEventListener('click', () => {
      for (const id of [...this.#open.keys()]) this.#close(id);
      void this.show();
    });
    onMap((sheet) => {
      for (const [id, trail] of this.#open) put(sheet, id, trail);
    });
  }

  /** Lists what is in the store now. Returns the number of finished trails. */
  async show(): Promise<number> {
    const trails = (await this.#parts.store.list()).filter(({ finished, fixes }) => finished && fixes > 0);
    const days = trailsByDay(trails).map(({ day = '', trails: ofDay, distance }) => {
      const part = piece('section', '');
      const date = new Date(`${day}T12:00`).toLocaleDateString('en-GB', {
        weekday: 'short',
        day: 'numeric',
        month: 'long',
        year: 'numeric',
      });
      const list = piece('ul', '', 'kept');
      list.append(...ofDay.map((entry) => this.#row(entry)));
      part.append(piece('h3', `${date}: ${lengthText(distance)}`), list);
      return part;
    });
    element('trails').replaceChildren(...days);
    write('no-trails', days.length === 0 ? 'None is kept yet.' : '');
    element('trails-close').hidden = this.#open.size === 0;
    return trails.length;
  }

  #row(entry: TrailEntry): HTMLElement {
    const { id, name = 'Unnamed', distance, start = 0, end = 0 } = entry;
    const row = piece('li', '');
    const label = piece('label', '');
    const box = document.createElement('input');
    box.type = 'checkbox';
    box.checked = this.#open.has(id);
    box.addEventListener('change', () => {
      if (box.checked) void this.#show(id);
      else this.#close(id);
    });
    const at = new Date(start).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
    const text = `${at} ${name}, ${lengthText(distance)}, ${durationText((end - start) / 1000)}`;
    label.append(box, ` ${text}`);
    const acts = piece('p', '', 'acts');
    const act = (words: string, press: (trail: Trail) => unknown) => {
      const made = pressable(words, () =>
        this.#read(id).then((trail) => (trail === undefined ? undefined : press(trail))),
      );
      made.ariaLabel = `${words}: ${text}`;
      acts.append(made);
    };
    act('GPX', (trail) => saveTracks(`${fileName(trail)}.gpx`, { trails: [trail] }));
    act('Report', (trail) => report(trail));
    if (canShareFiles()) act('Share', (trail) => share(trail));
    const replay = document.createElement('a');
    replay.href = `../replay/?trail=${encodeURIComponent(id)}`;
    replay.textContent = 'Replay';
    replay.ariaLabel = `Replay: ${text}`;
    acts.append(replay);
    act('Delete', () => this.#delete(id, text));
    row.append(label, acts);
    return row;
  }

  async #read(id: string): Promise<Trail | undefined> {
    const trail = this.#open.get(id) ?? (await this.#parts.store.read(id));
    write('trails-told', trail === undefined ? 'This trail is not there any more.' : '');
    return trail;
  }

  async #show(id: string): Promise<void> {
    const trail = await this.#read(id);
    if (trail === undefined) return;
    this.#open.set(id, trail);
    element('before').hidden = true;
    const map = theMap();
    put(map, id, trail);
    map.steer('free');
    map.frame([...this.#open.values()].flatMap((each) => [...each]));
    element('trails-close').hidden = false;
  }

  #close(id: string): void {
    this.#open.delete(id);
    element('trails-close').hidden = this.#open.size === 0;
    if (this.#open.size > 0 || this.#parts.walking()) theMap().layers.remove(`kept-${id}`);
    else {
      closeMap();
      element('before').hidden = false;
    }
  }

  async #delete(id: string, text: string): Promise<void> {
    if (!confirm(`Delete this trail for ever? ${text}`)) return;
    if (this.#open.has(id)) this.#close(id);
    await this.#parts.store.remove(id);
    this.#parts.onDeleted(await this.show());
  }
}

function put(map: MapSheet, id: string, trail: Trail): void {
  map.layers.put(`kept-${id}`, { kind: 'trail', trail });
}

function fileName(trail: Trail): string {
  const day = new Date(trail.number(0, 'time')).toISOString().slice(0, 10);
  return `${(trail.name ?? 'round').toLowerCase().replace(/\W+/g, '-')}-${day}`;
}

/** The report is loaded when it is asked for. */
async function report(trail: Trail): Promise<void> {
  const [{ reportPage }, ground, sections] = await Promise.all([
    import('aurelian-drift/report'),
    islandGround(),
    load('sections'),
  ]);
  const timeZone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const page = reportPage(
    { trails: [trail], fences: fencesFrom(sections), ground, credit: CREDIT },
    { timeZone },
  );
  saveFile(`${fileName(trail)}.html`, page, 'text/html');
}

const fileOf = (name: string, text: string) => new File([text], name, { type: 'application/gpx+xml' });

/** Whether the system’s share sheet takes files. */
function canShareFiles(): boolean {
  const { canShare } = navigator as Partial<Navigator>;
  return canShare?.call(navigator, { files: [fileOf('round.gpx', '')] }) === true;
}

async function share(trail: Trail): Promise<void> {
  const file = fileOf(`${fileName(trail)}.gpx`, writeGpx({ trails: [trail] }));
  try {
    await navigator.share({ files: [file], title: trail.name ?? 'Round' });
  } catch (error) {
    if ((error as Error).name !== 'AbortError') write('trails-told', 'The system did not take the file.');
  }
}
