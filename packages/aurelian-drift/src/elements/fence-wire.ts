import type { Crossing } from '../core/fence/crossing.js';
import type { Fence } from '../core/fence/fence.js';
import { FenceWatch } from '../core/fence/watch.js';
import type { Fix } from '../core/fix/fix.js';
import { tellAuthor } from './attribute-values.js';
import { fetchedJson } from '../page/fetched-json.js';
import { fencesIn } from './markup-content.js';

/** A map element, as far as fences are concerned. */
type ShowsFences = Element & {
  fences?: readonly Fence[] | undefined;
  inside?: ReadonlySet<string> | undefined;
};

/** The fences of `<aurelian-receiver>`, of a file and of its markup: watched, and shown on the maps inside. */
export class FenceWire {
  readonly #onCrossing: (crossing: Crossing) => void;
  readonly #onChange: () => void;
  #address: string | undefined;
  #ofFile: readonly Fence[] = [];
  /** The fences in use, as text: markup that changes elsewhere leaves the watch as it is. */
  #key = '[]';
  #fences: readonly Fence[] = [];
  #watch: FenceWatch | undefined;
  #host: Element | undefined;

  constructor(onCrossing: (crossing: Crossing) => void, onChange: () => void) {
    this.#onCrossing = onCrossing;
    this.#onChange = onChange;
  }

  /** Names of the fences with the user inside. */
  get inside(): readonly string[] {
    const ids = this.#ids;
    return this.#fences.filter(({ id }) => ids.has(id)).map(({ name }) => name);
  }

  /** @param address of a GeoJSON file. @param host the element with the markup. */
  read(address: string | undefined, host: Element): void {
    this.#host = host;
    if (address !== this.#address) {
      this.#address = address;
      this.#ofFile = [];
      if (address !== undefined) void this.#load(address);
    }
    this.#use([...this.#ofFile, ...fencesIn(host)]);
  }

  take(fix: Fix): void {
    const crossings = this.#watch?.take(fix) ?? [];
    if (crossings.length > 0) this.#showOnMaps();
    for (const crossing of crossings) this.#onCrossing(crossing);
  }

  breakSegment(): void {
    this.#watch?.breakSegment();
  }

  async #load(address: string): Promise<void> {
    try {
      const { fencesFrom, timetable } = await import('./fence-parts.js');
      const fences = fencesFrom(await fetchedJson(address), { timetable });
      if (address !== this.#address) return;
      this.#ofFile = fences;
      if (this.#host !== undefined) this.#use([...fences, ...fencesIn(this.#host)]);
      this.#onChange();
    } catch (error) {
      tellAuthor(error);
    }
  }

  #use(fences: readonly Fence[]): void {
    const key = JSON.stringify(fences);
    if (key !== this.#key) {
      this.#key = key;
      try {
        this.#watch = fences.length === 0 ? undefined : new FenceWatch(fences);
        this.#fences = fences;
      } catch (error) {
        tellAuthor(error);
      }
    }
    this.#showOnMaps();
  }

  get #ids(): ReadonlySet<string> {
    return new Set(this.#watch?.inside);
  }

  #showOnMaps(): void {
    if (this.#host === undefined || (this.#fences.length === 0 && this.#key === '[]')) return;
    for (const map of this.#host.querySelectorAll<ShowsFences>('aurelian-map')) {
      map.fences = this.#fences;
      map.inside = this.#ids;
    }
  }
}
