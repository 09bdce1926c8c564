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

const NONE: readonly Fence[] = Object.freeze([]);

/** The fences of `<aurelian-receiver>`, of a file and of its markup: watched, and shown on the maps inside. */
export class FenceWire {
  readonly #onCrossing: (crossing: Crossing) => void;
  readonly #onChange: () => void;
  #address: string | undefined;
  #ofFile: readonly Fence[] = NONE;
  /** What is in use: the fences of the file, and those of the markup as text, so that other changes leave the watch. */
  #used: { readonly ofFile: readonly Fence[]; readonly markup: string } | undefined;
  #fences: readonly Fence[] = [];
  #watch: FenceWatch | undefined;
  #host: Element | undefined;
  /** The newest fix, for fences that come after it. */
  #latest: Fix | undefined;

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
      this.#ofFile = NONE;
      if (address !== undefined) void this.#load(address);
    }
    this.#use(fencesIn(host));
  }

  take(fix: Fix): void {
    this.#latest = fix;
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
      if (this.#host !== undefined) this.#use(fencesIn(this.#host));
      this.#onChange();
    } catch (error) {
      tellAuthor(error);
    }
  }

  #use(ofMarkup: readonly Fence[]): void {
    const ofFile = this.#ofFile;
    const markup = JSON.stringify(ofMarkup);
    if (this.#used?.ofFile !== ofFile || this.#used.markup !== markup) {
      const isFirst = this.#used === undefined;
      this.#used = { ofFile, markup };
      const fences = [...ofFile, ...ofMarkup];
      if (isFirst && fences.length === 0) return; // maps keep what they have
      try {
        this.#watch = fences.length === 0 ? undefined : new FenceWatch(fences);
        this.#fences = fences;
        if (this.#latest !== undefined) this.take(this.#latest);
      } catch (error) {
        tellAuthor(error);
      }
      this.#showOnMaps();
    }
  }

  get #ids(): ReadonlySet<string> {
    return new Set(this.#watch?.inside);
  }

  #showOnMaps(): void {
    for (const map of this.#host?.querySelectorAll<ShowsFences>('aurelian-map') ?? []) {
      map.fences = this.#fences;
      map.inside = this.#ids;
    }
  }
}
