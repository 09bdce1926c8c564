import { positionText, type Fix } from 'aurelian-drift';
import type { MapSheet } from 'aurelian-drift/map';
import { placeRecord, placeRecordFrom, type PlaceRecord, type PlaceService } from 'aurelian-drift/places';
import { element, field, piece, pressable, write } from '../shared/page.js';
import { onMap } from './round-map.js';

/* What the warden saw, as the app’s own records: each has the text, and the place where it was known. */

const KEPT = 'round/sightings';

interface Sighting {
  readonly id: string;
  readonly text: string;
  /** When it was noted, milliseconds since 1970 UTC. */
  readonly time: number;
  /** Absent when there was no fix. */
  readonly place?: PlaceRecord;
}

export interface SightingsDeskParts {
  readonly places: PlaceService;
  /** The newest fix, if there is one. */
  readonly latest: () => Fix | undefined;
  readonly now: () => number;
}

/** The part of the field book in which sightings are noted; they are pins on the map. */
export class SightingsDesk {
  readonly #parts: SightingsDeskParts;
  #sightings: readonly Sighting[];
  #map: MapSheet | undefined;

  constructor(parts: SightingsDeskParts) {
    this.#parts = parts;
    this.#sightings = kept();
    element('sighting').addEventListener('submit', (event) => {
      event.preventDefault();
      const text = field('sighting-text').value.trim();
      if (text !== '') void this.#note(text);
      field('sighting-text').value = '';
    });
    onMap((sheet) => {
      this.#map = sheet;
      this.#draw();
    });
    this.#draw();
  }

  /** The record is kept at once; the name of the place comes when it is known. */
  async #note(text: string): Promise<void> {
    const fix = this.#parts.latest();
    const id = crypto.randomUUID();
    const time = this.#parts.now();
    this.#change([
      { id, text, time, ...(fix !== undefined && { place: placeRecord(fix) }) },
      ...this.#sightings,
    ]);
    if (fix === undefined) return;
    const [answer] = await this.#parts.places.at(fix).catch(() => []); // the numbers are kept
    if (answer === undefined) return;
    const place = placeRecord(fix, answer);
    this.#change(this.#sightings.map((each) => (each.id === id ? { ...each, place } : each)));
  }

  #change(sightings: readonly Sighting[]): void {
    this.#sightings = sightings;
    try {
      localStorage.setItem(KEPT, JSON.stringify(sightings));
      write('sightings-told', '');
    } catch {
      write(
        'sightings-told',
        'The browser has no room left: the sightings are lost when the page is closed.',
      );
    }
    this.#draw();
  }

  #draw(): void {
    element('sightings').replaceChildren(...this.#sightings.map((each) => this.#row(each)));
    this.#map?.pins.clear('sightings');
    for (const { id, text, time, place } of this.#sightings) {
      if (place === undefined) continue;
      const { lat, lon } = place;
      const label = `${text}, ${clockText(time)}`;
      this.#map?.pins.add({ id: `sighting-${id}`, group: 'sightings', lat, lon, text: label });
    }
  }

  #row({ id, text, time, place }: Sighting): HTMLElement {
    const row = piece('li', '');
    const when = new Date(time).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
    const where = place === undefined ? 'without a place' : (place.text ?? positionText(place));
    const words = piece('span', '');
    words.append(piece('b', text), piece('span', `${when}, ${where}`, 'more'));
    const remove = pressable('Remove', () => this.#change(this.#sightings.filter((each) => each.id !== id)));
    remove.ariaLabel = `Remove: ${text}`;
    row.append(words, remove);
    return row;
  }
}

/** The sightings that are kept. One that cannot be read keeps its text, and loses its place. */
function kept(): readonly Sighting[] {
  try {
    const all = JSON.parse(localStorage.getItem(KEPT) ?? '[]') as (Omit<Sighting, 'place'> & {
      place?: unknown;
    })[];
    return all.map(({ place, ...rest }) => {
      try {
        return place === undefined ? rest : { ...rest, place: placeRecordFrom(place) };
      } catch {
        return rest;
      }
    });
  } catch {
    return [];
  }
}

function clockText(time: number): string {
  return new Date(time).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
}
