import type { Bounds } from '../core/geodesy/bounds.js';
import type { Position } from '../core/geodesy/position.js';
import type { Fence } from '../core/fence/fence.js';
import type { Ground } from '../core/scene/layers/ground.js';
import type { UnitSystem } from '../core/fix/units.js';
import type { SteeringMode } from '../core/scene/steering.js';
import { map } from '../core/texts/english.js';
import { partOf } from '../core/texts/part.js';
import type { Texts } from '../core/texts/texts.js';
import type { GestureSharing } from '../map/gesture-sink.js';
import { checkMapSheet, type MapSheetOptions } from '../map/map-options.js';
import type { MapEvent } from '../map/map-events.js';
import { MapSheet } from '../map/map-sheet.js';
import type { ThemeChoice } from '../map/theme-choice.js';
import { putGround } from '../page/put-ground.js';
import type { Receiver } from '../receiver/receiver.js';
import { ElementTexts } from './element-texts.js';
import { tellAuthor, tellMisspelt } from './attribute-values.js';
import { concernsContent, fencesIn, markupId, pinsIn } from './markup-content.js';
import { MAP_ATTRIBUTES, type MapAttribute } from './map-attributes.js';
import { PageElement } from './page-element.js';
import { earlyOf } from './take-up.js';
import { define } from './define.js';

const RULES: Readonly<Record<string, MapAttribute>> = MAP_ATTRIBUTES;
/** Attributes of the element. Others belong to the page; one with a similar name is reported. */
const ATTRIBUTES: readonly string[] = [...Object.keys(RULES), 'ground', 'credit'];
/** Properties that may be set before the element is defined. */
const PROPERTIES = [
  ...Object.values(RULES).map(({ property }) => property),
  ...['ground', 'credit', 'receiver', 'texts', 'fences', 'inside'],
];

/**
 * The interactive map as an element. Attributes, each with a property of the same meaning: `centre` ("LAT,LON"),
 * `zoom`,
 * `turn`, `bounds` ("WEST,SOUTH,EAST,NORTH"), `label`, `credit`, `ground` (address of a GeoJSON file, template of
 * tiles, or `grid`),
 * `steering`, `theme`, `units`, `decimals`, `gestures`, `keep-view`, `controls` ("none"). A wrong attribute is told in
 * the map until it is mended. Further properties: `receiver`, `sheet`, `texts`. Events: `mapview`, `maptap`, `maphold`,
 * `mapdrop`, with the data of `MapSheet.onEvent` in `detail`. Parts for styling: `stage`, `strip`. Its child elements
 * are shown over the map, inside the margin; `<aurelian-pin>` and `<aurelian-fence>` among them are pins and fences.
 *
 * The map is made when the element is connected first. It keeps pins, layers and view while the element is moved in the
 * document, or out of it and back; out of the document it follows nothing.
 */
export class MapElement extends PageElement {
  static readonly observedAttributes = ATTRIBUTES;
  /** Centre of the view. */
  declare centre: Position | undefined;
  /** Zoom of the view, 0 to 22. */
  declare zoom: number | undefined;
  /** Degrees clockwise from true north that point up. */
  declare turn: number | undefined;
  /** Box that is shown: [west, south, east, north] in degrees. */
  declare bounds: Bounds | undefined;
  /** Name for screen readers. */
  declare label: string | undefined;
  /** How the view follows the own place. Default `centred`. */
  declare steering: SteeringMode | undefined;
  /** Colours. Default `day`. */
  declare theme: ThemeChoice | undefined;
  /** Units. Default `metric`. */
  declare units: UnitSystem | undefined;
  /** Decimals of positions. Default 5. */
  declare decimals: number | 'auto' | undefined;
  /** Who has the wheel and one finger. Default `own`: the map. */
  declare gestures: GestureSharing | undefined;
  /** Name under which the view is stored between visits. */
  declare keepView: string | undefined;
  /** Whether the strip of controls is shown. Default true. */
  declare controls: boolean | undefined;
  readonly #texts = new ElementTexts(this, () => {
    if (this.#sheet !== undefined) this.#sheet.texts = this.#texts.current;
    this.#showFaults();
  });
  #sheet: MapSheet | undefined;
  #receiver: Receiver | undefined;
  /** Background that was set as a property; an attribute replaces it. */
  #ground: Ground | object | undefined;
  /** What is wrong with attributes, by their names. */
  readonly #faults = new Map<string, string>();
  #early: Readonly<Record<string, unknown>>;
  #fences: readonly Fence[] | undefined;
  #inside: ReadonlySet<string> | undefined;
  readonly #markup = new MutationObserver((changes) => {
    if (changes.some(concernsContent)) this.#readMarkup();
  });
  /** Pins and fences of the markup as they were read: what did not change is left alone. */
  #pinsRead: ReadonlyMap<string, string> = new Map();
  #fencesRead: readonly Fence[] = [];
  /** While the element is out of the document: whether the map showed the own place. */
  #resting: { readonly shown: boolean } | undefined;

  static {
    for (const [name, rule] of Object.entries(RULES)) {
      Object.defineProperty(this.prototype, rule.property, {
        configurable: true,
        enumerable: true,
        get(this: MapElement) {
          const text = this.getAttribute(name);
          try {
            return text === null ? undefined : rule.read(text);
          } catch {
            return undefined; // told in the map
          }
        },
        set(this: MapElement, value: unknown) {
          // Frameworks set the text of an attribute as the property, where there is one.
          const text = typeof value === 'string' ? value : rule.write(value as never);
          this.#setText(name, value === undefined || value === null ? undefined : text);
        },
      });
    }
  }

  constructor() {
    super();
    this.#early = earlyOf(this, PROPERTIES);
  }

  /** The map; `undefined` until the element is first connected to a document. */
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

  /** Receiver whose fixes are shown. A new one takes over; pins, layers and view stay. */
  get receiver(): Receiver | undefined {
    return this.#receiver;
  }
  set receiver(receiver: Receiver | undefined) {
    this.#receiver = receiver;
    if (this.#sheet !== undefined && this.#resting === undefined) this.#sheet.receiver = receiver;
  }

  /**
   * Background: address of a GeoJSON file, template of tiles with `{z}`, `{x}` and `{y}`, `grid`, a parsed GeoJSON
   * document, or what `groundFrom` made of it.
   */
  get ground(): string | Ground | object | undefined {
    return this.#ground ?? this.getAttribute('ground') ?? undefined;
  }
  set ground(ground: string | Ground | object | undefined) {
    const own = typeof ground === 'object' ? ground : undefined;
    this.#ground = own;
    // The attribute says what the property is, where that is a text.
    this.#setText('ground', typeof ground === 'string' ? ground : undefined);
    if (own !== undefined) this.#loadGround();
  }

  /** Source of the data of the background; always shown. */
  get credit(): string | undefined {
    return this.getAttribute('credit') ?? undefined;
  }
  set credit(credit: string | undefined) {
    this.#setText('credit', credit);
  }

  /** Fences that are shown. Default: the elements `<aurelian-fence>` in the map. */
  get fences(): readonly Fence[] | undefined {
    return this.#fences;
  }
  set fences(fences: readonly Fence[] | undefined) {
    this.#fences = fences;
    this.#showFences();
  }

  /** Ids of the fences with somebody inside. */
  get inside(): ReadonlySet<string> | undefined {
    return this.#inside;
  }
  set inside(inside: ReadonlySet<string> | undefined) {
    this.#inside = inside;
    this.#showFences();
  }

  connectedCallback(): void {
    const early = this.#early;
    this.#early = {};
    if (this.#sheet === undefined) this.#open();
    else this.#wake();
    Object.assign(this, early);
    void this.#texts.load();
    this.#markup.observe(this, { subtree: true, childList: true, attributes: true });
    this.#readMarkup();
  }

  disconnectedCallback(): void {
    this.#markup.disconnect();
    // A move within the document disconnects and connects at once.
    queueMicrotask(() => {
      const sheet = this.#sheet;
      if (this.isConnected || sheet === undefined || this.#resting !== undefined) return;
      this.#resting = { shown: sheet.showsOwnPlace };
      sheet.receiver = undefined;
    });
  }

  attributeChangedCallback(name: string, before: string | null, now: string | null): void {
    if (before === now || this.#sheet === undefined) return;
    if (name === 'ground' || name === 'credit') {
      if (name === 'ground' && now !== null) this.#ground = undefined;
      this.#loadGround();
    } else {
      this.#apply(name, this.#sheet);
    }
  }

  /** Pins and fences of the markup, where they have changed. */
  #readMarkup(): void {
    if (this.#sheet === undefined) return;
    const { pins } = this.#sheet;
    const read = new Map<string, string>();
    for (const pin of pinsIn(this)) {
      const text = JSON.stringify(pin);
      read.set(pin.id, text);
      if (this.#pinsRead.get(pin.id) === text) continue;
      for (const problem of pins.addAll([pin]).refused) tellAuthor(`<aurelian-pin>: ${problem}`);
    }
    for (const id of this.#pinsRead.keys()) if (!read.has(id)) pins.remove(id);
    this.#pinsRead = read;
    const fences = fencesIn(this);
    if (JSON.stringify(fences) !== JSON.stringify(this.#fencesRead)) {
      this.#fencesRead = fences;
      this.#showFences();
    }
  }

  #showFences(): void {
    const fences = this.#fences ?? (this.#fencesRead.length === 0 ? undefined : this.#fencesRead);
    const inside = this.#inside;
    try {
      if (fences !== undefined) this.#sheet?.showFences(fences, inside === undefined ? {} : { inside });
      else this.#sheet?.layers.remove('fences');
    } catch (error) {
      tellAuthor(error);
    }
  }

  #setText(name: string, text: string | undefined): void {
    if (text === undefined) this.removeAttribute(name);
    else this.setAttribute(name, text);
  }

  /** The option of an attribute; what is wrong with it is told, and it is left out. */
  #optionOf(name: string): Partial<MapSheetOptions> {
    const rule = RULES[name];
    const text = this.getAttribute(name);
    this.#faults.delete(name);
    if (rule === undefined || text === null) return {};
    try {
      const option = { [rule.property]: rule.read(text) };
      checkMapSheet({ container: this, ...option });
      return option;
    } catch (error) {
      this.#fault(name, error);
      return {};
    }
  }

  #apply(name: string, sheet: MapSheet): void {
    const rule = RULES[name];
    if (rule === undefined) return;
    const option = this.#optionOf(name) as Readonly<Record<string, unknown>>;
    if (!this.#faults.has(name)) rule.apply(sheet, option[rule.property] as never);
    this.#showFaults();
  }

  #open(): void {
    tellMisspelt(this, ATTRIBUTES);
    const options = Object.assign({}, ...Object.keys(RULES).map((name) => this.#optionOf(name))) as object;
    const sheet = new MapSheet({
      container: this,
      texts: this.#texts.current,
      ...(this.#receiver !== undefined && { receiver: this.#receiver }),
      ...options,
    });
    this.#sheet = sheet;
    // A pin of the markup that was put down somewhere else is there from then on.
    sheet.onEvent((event) => {
      if (event.kind !== 'drop') return;
      const pin = Array.from(this.querySelectorAll('aurelian-pin')).find(
        (each) => markupId(each) === event.pin,
      );
      pin?.setAttribute('at', `${event.at.lat},${event.at.lon}`);
    });
    sheet.onEvent(({ kind, ...detail }) =>
      this.dispatchEvent(new CustomEvent(`map${kind}`, { detail, bubbles: true, composed: true })),
    );
    this.#showFaults();
    this.#loadGround();
  }

  #wake(): void {
    const resting = this.#resting;
    this.#resting = undefined;
    if (resting === undefined || this.#sheet === undefined) return;
    this.#sheet.receiver = this.#receiver;
    if (resting.shown) this.#sheet.setOwnPlace(true);
  }

  #fault(name: string, error: unknown): void {
    const message = error instanceof Error ? error.message : String(error);
    this.#faults.set(name, message);
    tellAuthor(message);
  }

  #showFaults(): void {
    const sheet = this.#sheet;
    const [fault] = this.#faults.values();
    const { faulty } = partOf(this.#texts.current, 'map', map);
    sheet?.note('faulty', fault === undefined ? undefined : { text: faulty, help: fault });
  }

  #loadGround(): void {
    if (this.#sheet !== undefined) putGround(this.#sheet, this.ground, this.credit, tellAuthor);
  }
}

/** Data of an event of a map, without its kind. */
type DetailOf<Kind extends MapEvent['kind']> = Omit<Extract<MapEvent, { kind: Kind }>, 'kind'>;

define('aurelian-map', MapElement);

declare global {
  interface HTMLElementTagNameMap {
    'aurelian-map': MapElement;
  }
  interface GlobalEventHandlersEventMap {
    /** Dispatched by `<aurelian-map>`: the view has changed. */
    mapview: CustomEvent<DetailOf<'view'>>;
    /** Dispatched by `<aurelian-map>`: a short press. */
    maptap: CustomEvent<DetailOf<'tap'>>;
    /** Dispatched by `<aurelian-map>`: a long press. */
    maphold: CustomEvent<DetailOf<'hold'>>;
    /** Dispatched by `<aurelian-map>`: a pin was put down somewhere else. */
    mapdrop: CustomEvent<DetailOf<'drop'>>;
  }
}
