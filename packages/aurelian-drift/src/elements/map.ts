import { closest } from '../core/check/suggest.js';
import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';
import type { Position } from '../core/geodesy/position.js';
import { position } from '../core/geodesy/position.js';
import { groundFrom } from '../core/scene/layers/ground.js';
import type { UnitSystem } from '../core/fix/units.js';
import type { SteeringMode } from '../core/scene/steering.js';
import type { Theme } from '../core/scene/theme.js';
import { MapSheet } from '../map/map-sheet.js';
import type { MapSheetOptions } from '../map/map-options.js';
import type { Receiver } from '../receiver/receiver.js';
import { map } from '../core/texts/english.js';
import { partOf } from '../core/texts/part.js';
import type { Texts } from '../core/texts/texts.js';
import { ElementTexts } from './element-texts.js';
import { PageElement } from './page-element.js';

/** Attributes of the element. Others belong to the page; one with a similar name is reported. */
const ATTRIBUTES = [
  'centre',
  'zoom',
  'turn',
  'label',
  'credit',
  'ground',
  'steering',
  'theme',
  'units',
  'keep-view',
  'controls',
] as const;

/**
 * The interactive map as an element. Attributes: `centre` ("LAT,LON"), `zoom`, `turn`, `label`, `credit`, `ground`
 * (address of a GeoJSON file, or `grid`), `steering`, `theme`, `units`, `keep-view`, `controls` ("none"). Properties:
 * `receiver`, `sheet`, `texts`. Events: `view`, `tap`, `hold`, `drop`, with the data of `MapSheet.onEvent` in `detail`.
 * Parts for styling: `stage`, `strip`. Its child elements are shown over the map, inside the margin.
 */
export class MapElement extends PageElement {
  static readonly observedAttributes = ATTRIBUTES;
  readonly #texts = new ElementTexts(this, () => {
    if (this.#sheet !== undefined) this.#sheet.texts = this.#texts.current;
  });
  #sheet: MapSheet | undefined;
  #receiver: Receiver | undefined;

  /** The map; `undefined` while the element is in no document. */
  get sheet(): MapSheet | undefined {
    return this.#sheet;
  }

  /** Texts for the user. Default: those of the nearest `lang` around the map, else of the browser's languages. */
  get texts(): Texts | undefined {
    return this.#texts.own;
  }
  set texts(texts: Texts | undefined) {
    this.#texts.own = texts;
  }

  /** Receiver whose fixes are shown. */
  get receiver(): Receiver | undefined {
    return this.#receiver;
  }
  set receiver(receiver: Receiver | undefined) {
    this.#receiver = receiver;
    if (this.#sheet !== undefined) this.#open(); // a map keeps its receiver
  }

  connectedCallback(): void {
    this.#open();
    this.#texts.load();
  }

  disconnectedCallback(): void {
    this.#sheet?.close();
    this.#sheet = undefined;
  }

  attributeChangedCallback(name: string, before: string | null, now: string | null): void {
    const sheet = this.#sheet;
    if (sheet === undefined || before === now) return;
    try {
      if (name === 'theme') sheet.theme = (now ?? 'day') as Theme;
      else if (name === 'units') sheet.units = (now ?? 'metric') as UnitSystem;
      else if (name === 'steering') sheet.steer((now ?? 'centred') as SteeringMode);
      else if (name === 'ground') void this.#loadGround(sheet);
      else if (name === 'centre' && now !== null) sheet.look({ centre: placeOf(now) });
      else if ((name === 'zoom' || name === 'turn') && now !== null)
        sheet.look({ [name]: numberOf(name, now) });
      else this.#open();
    } catch (error) {
      report(error);
    }
  }

  #open(): void {
    this.#sheet?.close();
    this.#sheet = undefined;
    for (const { name } of this.attributes) {
      const meant = (ATTRIBUTES as readonly string[]).includes(name)
        ? undefined
        : closest(name, ATTRIBUTES, 0.2);
      if (meant !== undefined) report(`<aurelian-map> has no attribute "${name}", did you mean "${meant}"?`);
    }
    try {
      const sheet = new MapSheet(this.#options());
      this.#sheet = sheet;
      sheet.onEvent(({ kind, ...detail }) => this.dispatchEvent(new CustomEvent(kind, { detail })));
      void this.#loadGround(sheet);
    } catch (error) {
      report(error);
    }
  }

  #options(): MapSheetOptions {
    const text = (name: (typeof ATTRIBUTES)[number]) => this.getAttribute(name) ?? undefined;
    const centre = text('centre');
    const [zoom, turn, label, keepView] = [text('zoom'), text('turn'), text('label'), text('keep-view')];
    const [steering, theme, units] = [text('steering'), text('theme'), text('units')];
    return {
      container: this,
      texts: this.#texts.current,
      ...(centre !== undefined && { centre: placeOf(centre) }),
      ...(zoom !== undefined && { zoom: numberOf('zoom', zoom) }),
      ...(turn !== undefined && { turn: numberOf('turn', turn) }),
      ...(label !== undefined && { label }),
      ...(keepView !== undefined && { keepView }),
      ...(steering !== undefined && { steering: steering as SteeringMode }),
      ...(theme !== undefined && { theme: theme as Theme }),
      ...(units !== undefined && { units: units as UnitSystem }),
      ...(text('controls') === 'none' && { controls: false }),
      ...(this.#receiver !== undefined && { receiver: this.#receiver }),
    };
  }

  async #loadGround(sheet: MapSheet): Promise<void> {
    const address = this.getAttribute('ground');
    const credit = this.getAttribute('credit');
    if (address === null) return;
    if (address === 'grid') {
      sheet.layers.remove('ground');
      sheet.layers.put('grid', { kind: 'grid' });
      return;
    }
    try {
      const response = await fetch(address);
      if (!response.ok) throw new Error(`${address} answers ${response.status}`);
      const ground = groundFrom(await response.json());
      if (this.#sheet !== sheet) return; // another map has replaced this one
      sheet.layers.put('ground', { kind: 'ground', ground, ...(credit !== null && { credit }) });
    } catch (error) {
      report(error);
      sheet.note('content', { text: partOf(sheet.texts, 'map', map).unreadableBackground });
    }
  }
}

function placeOf(text: string): Position {
  const [lat, lon, ...more] = text.split(',').map((part) => (part.trim() === '' ? NaN : Number(part)));
  if (lat === undefined || lon === undefined || more.length > 0) {
    throw new InputError(
      'bad-value',
      `<aurelian-map>: centre is written LAT,LON, like 44.2,-33.6; got ${formatValue(text)}`,
    );
  }
  return position(lat, lon);
}

function numberOf(name: string, text: string): number {
  const number = text.trim() === '' ? NaN : Number(text);
  if (Number.isNaN(number))
    throw new InputError('bad-value', `<aurelian-map>: ${name} must be a number, got ${formatValue(text)}`);
  return number;
}

/** An element cannot throw to the author of its attributes; the console shows the error. */
function report(error: unknown): void {
  // eslint-disable-next-line no-console -- what is wrong with a page's markup is for its developer
  console.error(error instanceof Error ? error.message : String(error));
}
