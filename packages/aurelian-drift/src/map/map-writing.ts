import { checkOptions } from '../core/check/options.js';
import { MapWords } from '../core/scene/map-words.js';
import type { UnitSystem } from '../core/fix/units.js';
import type { Texts } from '../core/texts/texts.js';
import { PAINT_RULES } from './map-options.js';

/** What a map is written with. */
export interface MapWritingOptions {
  readonly texts?: Texts | undefined;
  readonly units?: UnitSystem;
  readonly decimals?: number | 'auto';
  readonly label?: string;
}

/** The language, units, decimals and name of a map, each of which may be changed. */
export class MapWriting {
  readonly #onChange: () => void;
  #texts: Texts | undefined;
  #units: UnitSystem;
  #decimals: number | 'auto';
  #label: string | undefined;
  #words: MapWords;

  constructor(options: MapWritingOptions, onChange: () => void) {
    this.#onChange = onChange;
    this.#texts = options.texts;
    this.#units = options.units ?? 'metric';
    this.#decimals = options.decimals ?? 5;
    this.#label = options.label;
    this.#words = this.#newWords();
  }

  get words(): MapWords {
    return this.#words;
  }

  /** The name of the map: that of the app, else of the language. */
  get name(): string {
    return this.#label ?? this.#words.texts.label;
  }

  get texts(): Texts | undefined {
    return this.#texts;
  }
  set texts(texts: Texts | undefined) {
    this.#texts = texts;
    this.#changed();
  }

  get units(): UnitSystem {
    return this.#units;
  }
  set units(units: UnitSystem) {
    checkOptions('MapSheet', { units }, { units: PAINT_RULES.units });
    this.#units = units;
    this.#changed();
  }

  get decimals(): number | 'auto' {
    return this.#decimals;
  }
  set decimals(decimals: number | 'auto') {
    checkOptions('MapSheet', { decimals }, { decimals: PAINT_RULES.decimals });
    this.#decimals = decimals;
    this.#changed();
  }

  get label(): string | undefined {
    return this.#label;
  }
  set label(label: string | undefined) {
    this.#label = label;
    this.#changed();
  }

  #newWords(): MapWords {
    return new MapWords({ texts: this.#texts, units: this.#units, decimals: this.#decimals });
  }

  #changed(): void {
    this.#words = this.#newWords();
    this.#onChange();
  }
}
