import type { Fix } from '../core/fix/fix.js';
import { distance } from '../core/geodesy/distance.js';
import type { PlaceService } from '../places/place-service.js';
import type { PlaceWatch } from '../places/place-watch.js';
import { tellAuthor } from './attribute-values.js';
import { fetchedJson } from '../page/fetched-json.js';

/** Elements that take the places of the element around them, unless they have their own. */
const TAKERS = 'aurelian-find, aurelian-near';

/** The names of places for `<aurelian-receiver>`: of a service of the app, or of a file. */
export class PlaceWire {
  readonly #onChange: () => void;
  #own: PlaceService | undefined;
  #ofFile: PlaceService | undefined;
  #address: string | undefined;
  #watch: PlaceWatch | undefined;
  #newest: Fix | undefined;
  #host: Element | undefined;

  constructor(onChange: () => void) {
    this.#onChange = onChange;
  }

  get service(): PlaceService | undefined {
    return this.#own ?? this.#ofFile;
  }
  set service(service: PlaceService | undefined) {
    this.#own = service;
    this.#renew();
  }

  /** What is at the newest fix, in words, once it is known. */
  get address(): string | undefined {
    const { answers = [], fix } = this.#watch?.$reading.get() ?? {};
    const newest = this.#newest;
    if (fix === undefined || newest === undefined) return undefined;
    // The name of a place that was left is not shown; one within reach of the fix is.
    return distance(fix, newest) <= Math.max(50, newest.accuracy ?? 0) ? answers[0]?.text : undefined;
  }

  read(address: string | undefined, host: Element): void {
    this.#host = host;
    if (address !== this.#address) {
      this.#address = address;
      this.#ofFile = undefined;
      if (address !== undefined) void this.#load(address);
    }
    this.#give();
  }

  take(fix: Fix): void {
    this.#newest = fix;
    if (this.service === undefined) return;
    if (this.#watch === undefined) void this.#begin(this.service);
    else this.#watch.take(fix);
  }

  rest(): void {
    this.#watch?.close();
    this.#watch = this.#newest = undefined;
  }

  async #begin(places: PlaceService): Promise<void> {
    const { PlaceWatch } = await import('./place-parts.js');
    if (this.#watch !== undefined || this.service !== places) return;
    this.#watch = new PlaceWatch({ places });
    this.#watch.$reading.listen(this.#onChange);
    if (this.#newest !== undefined) this.#watch.take(this.#newest);
  }

  async #load(address: string): Promise<void> {
    try {
      const { Gazetteer, gazetteerPlaces, placesFrom } = await import('./place-parts.js');
      const { places, refused } = placesFrom(await fetchedJson(address));
      for (const error of refused.slice(0, 5)) tellAuthor(`${address}: ${error.message}`);
      if (address !== this.#address) return;
      this.#ofFile = gazetteerPlaces(new Gazetteer(places));
      this.#renew();
    } catch (error) {
      tellAuthor(error);
    }
  }

  #renew(): void {
    const newest = this.#newest;
    this.rest();
    this.#give();
    if (newest !== undefined) this.take(newest);
    this.#onChange();
  }

  #give(): void {
    const { service } = this;
    if (service === undefined) return;
    for (const element of this.#host?.querySelectorAll<Element & { places?: PlaceService | undefined }>(
      TAKERS,
    ) ?? [])
      element.places ??= service;
  }
}
