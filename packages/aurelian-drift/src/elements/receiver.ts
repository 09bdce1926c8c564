import { InputError } from '../core/check/input-error.js';
import type { Crossing } from '../core/fence/crossing.js';
import type { Fix } from '../core/fix/fix.js';
import type { Formatter } from '../core/fix/formatter.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import type { Texts } from '../core/texts/texts.js';
import { RunningSummary } from '../core/trail/summary.js';
import type { LiveValue } from '../live/live-value.js';
import { OnScreen } from '../page/on-screen.js';
import { sendPlace } from '../page/send-place.js';
import type { PlaceService } from '../places/place-service.js';
import { ageOf } from '../receiver/age-of.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import type { FollowOptions } from '../receiver/options.js';
import type { ProfileName } from '../receiver/profiles.js';
import { Receiver } from '../receiver/receiver.js';
import type { Source } from '../receiver/source.js';
import { browserSource } from '../sources/browser.js';
import { showNote } from '../sources/on-screen-note.js';
import { numberOf, tellAuthor, tellMisspelt } from './attribute-values.js';
import { ElementFormat } from './element-format.js';
import { ElementTexts } from './element-texts.js';
import { FenceWire } from './fence-wire.js';
import { PageElement } from './page-element.js';
import type { PageState } from './page-state.js';
import { PlaceWire } from './place-wire.js';
import { earlyOf } from './take-up.js';
import { WiredParts, leaveOutEmpty, type Act } from './wired-parts.js';
import { define } from './define.js';

const ATTRIBUTES = [
  'purpose', 'accuracy', 'patience', 'every', 'beyond', 'profile', 'follow', 'places', 'fences', 'units',
]; // prettier-ignore
/** Elements that take the receiver of the element around them, unless they have one. */
const TAKERS = 'aurelian-map, aurelian-consent, aurelian-inspector, aurelian-find, aurelian-near';

/**
 * Holds a receiver for the parts of a page inside it, which are wired by attributes, without a script:
 *
 * - `data-shows="latitude"` on an output, a field or any other element: shows a value, in the language and units of the
 *   page; fields get plain numbers. Its own content is shown while the value is unknown. `data-to="LAT,LON"` beside
 *   `distance-to` and `bearing-to`.
 * - `data-does="locate"` on a button: `ask`, `locate`, `follow`, `stop`, `remedy`, `send`, or `submit`, which finds the
 *   place and then submits the form around it.
 * - `data-when="found"` on any element: it is there under a condition, or one of several.
 *
 * `<aurelian-map>`, `<aurelian-consent>`, `<aurelian-find>`, `<aurelian-near>` and `<aurelian-inspector>` inside use
 * the receiver. A failure that nothing inside shows is shown at the foot of the page.
 *
 * Attributes: `purpose`, needed; `accuracy` and `patience` of a fix; `every`, `beyond` and `profile` of a follow;
 * `follow`: follows at once, where that was permitted before; `places` and `fences`: addresses of GeoJSON files;
 * `units`. Properties: `receiver`, `source`, `clock`, `places`, `texts`. Events: `receiverfix`, `receiverfailure`,
 * `receivercrossing`.
 */
export class ReceiverElement extends PageElement {
  static readonly observedAttributes = ATTRIBUTES;
  readonly #parts = new WiredParts(this);
  readonly #texts = new ElementTexts(this, () => this.#soon());
  readonly #place = new PlaceWire(() => this.#soon());
  readonly #fences = new FenceWire(
    (crossing) => this.#dispatch('receivercrossing', { crossing }),
    () => this.#soon(),
  );
  readonly #held = new OnScreen<Held>(
    () => this.#open(),
    (held) => held.close(),
    (held) => this.#changed(held),
  );
  readonly #seen = new MutationObserver((changes) => {
    if (!changes.every(isShown)) this.#scan();
  });
  #receiver: Receiver | undefined;
  #source: Source | undefined;
  #clock: Clock | undefined;
  #current: Held | undefined;
  #follow: Follow | undefined;
  #walk: RunningSummary | undefined;
  readonly #formats = new ElementFormat();
  /** Receivers that elements inside were given. */
  readonly #given = new WeakMap<Element, Receiver>();
  #sent: PageState['sent'];
  #due = false;
  #early: Readonly<Record<string, unknown>>;

  constructor() {
    super();
    this.#early = earlyOf(this, ['receiver', 'source', 'clock', 'places', 'texts']);
  }

  /** The receiver: the app's own, where it was set, or that of the element; `undefined` before it is connected. */
  get receiver(): Receiver | undefined {
    return this.#receiver ?? this.#current?.receiver;
  }
  set receiver(receiver: Receiver | undefined) {
    this.#receiver = receiver;
    if (this.isConnected) this.#appear();
  }

  /** Where fixes come from. Default: the browser. */
  get source(): Source | undefined {
    return this.#source;
  }
  set source(source: Source | undefined) {
    this.#source = source;
    if (this.isConnected) this.#appear();
  }

  /** Clock of the receiver. Default: that of the platform. */
  get clock(): Clock | undefined {
    return this.#clock;
  }
  set clock(clock: Clock | undefined) {
    this.#clock = clock;
    if (this.isConnected) this.#appear();
  }

  /** Service that names places, for `address`. An attribute `places` makes one of a file. */
  get places(): PlaceService | undefined {
    return this.#place.service;
  }
  set places(places: PlaceService | undefined) {
    this.#place.service = places;
  }

  /** Texts for the user. Default: those of the nearest `lang`. */
  get texts(): Texts | undefined {
    return this.#texts.own;
  }
  set texts(texts: Texts | undefined) {
    this.#texts.own = texts;
  }

  /** The running follow. */
  get following(): Follow | undefined {
    return this.#follow?.running === true ? this.#follow : undefined;
  }

  connectedCallback(): void {
    Object.assign(this, this.#early);
    this.#early = {};
    tellMisspelt(this, ATTRIBUTES);
    this.addEventListener('click', this.#pressed);
    this.addEventListener('formdata', this.#submitted);
    this.addEventListener('choose', this.#chosen);
    void this.#texts.load().then(() => {
      if (this.isConnected) this.#appear();
    });
  }

  disconnectedCallback(): void {
    this.removeEventListener('click', this.#pressed);
    this.removeEventListener('formdata', this.#submitted);
    this.removeEventListener('choose', this.#chosen);
    this.#held.go();
  }

  attributeChangedCallback(name: string): void {
    if (!this.isConnected || this.#current === undefined) return;
    if (name === 'places' || name === 'fences') this.#scan();
    else if (name === 'purpose') this.#appear();
    else this.#soon();
  }

  #appear(): void {
    try {
      this.#held.appear([
        this.#receiver,
        this.#source,
        this.#clock,
        this.getAttribute('purpose'),
        this.#texts.current,
      ]);
    } catch (error) {
      tellAuthor(error);
    }
  }

  /** The receiver, and what ends it. One of the app is only let go. */
  #open(): Held {
    const purpose = this.getAttribute('purpose') ?? '';
    if (this.#receiver === undefined && purpose.trim() === '')
      throw new InputError(
        'bad-value',
        '<aurelian-receiver> needs purpose="…": why the page wants the position, in a sentence',
      );
    const receiver =
      this.#receiver ??
      new Receiver({
        source: this.#source ?? browserSource(),
        clock: this.#clock ?? systemClock,
        purpose,
        texts: this.#texts.current,
        explain: async (text) => {
          const card = this.querySelector('aurelian-consent');
          return card === null || !('explain' in card) ? 'go-on' : card.explain(text);
        },
      });
    const $age = ageOf(receiver.$fix);
    const soon = () => this.#soon();
    const lives: readonly LiveValue<unknown>[] = [
      receiver.$status,
      receiver.$access,
      receiver.$tracking,
      $age,
    ];
    const ends = [
      ...lives.map((live) => live.listen(soon)),
      receiver.$fix.listen((fix) => this.#took(fix)),
      receiver.$status.listen((status) => {
        if (status.state === 'failed') this.#failed(status.error);
      }),
    ];
    const own = this.#receiver === undefined;
    return {
      receiver,
      $age,
      close: () => {
        for (const end of ends) end();
        if (own) receiver.close();
      },
    };
  }

  #changed(held: Held | undefined): void {
    this.#current = held;
    this.#follow?.stop();
    this.#follow = undefined;
    this.#walk = undefined;
    this.#seen.disconnect();
    if (held === undefined) {
      this.#place.rest();
      return;
    }
    this.#seen.observe(this, {
      subtree: true,
      childList: true,
      attributes: true,
      attributeFilter: [
        'data-shows',
        'data-does',
        'data-when',
        'data-to',
        'at',
        'radius',
        'points',
        'line',
        'name',
      ],
    });
    this.#scan();
    void held.receiver.readAccess().then(({ permission }) => {
      if (this.#current === held && this.hasAttribute('follow') && permission === 'granted')
        this.#act('follow');
    });
  }

  /** Looks through the content: elements that take the receiver, fences, words. */
  #scan(): void {
    const { receiver } = this;
    if (receiver === undefined) return;
    for (const element of this.querySelectorAll<Element & { receiver?: Receiver | undefined }>(TAKERS)) {
      const had = element.receiver;
      if (had === receiver || element.closest('aurelian-receiver') !== this) continue;
      if (had !== undefined && had !== this.#given.get(element)) continue; // the app's own
      this.#given.set(element, receiver);
      element.receiver = receiver;
    }
    this.#place.read(this.getAttribute('places') ?? undefined, this);
    this.#fences.read(this.getAttribute('fences') ?? undefined, this);
    this.#soon();
  }

  #took(fix: Fix | undefined): void {
    if (fix === undefined) return;
    this.#walk?.take(fix);
    this.#fences.take(fix);
    if (this.#parts.shows('address')) this.#place.take(fix);
    for (const find of this.querySelectorAll('aurelian-find')) find.near = fix;
    this.#sent = undefined;
    this.#dispatch('receiverfix', { fix });
    this.#soon();
  }

  #failed(error: NoFixError): void {
    this.#dispatch('receiverfailure', { error });
    const told = this.#parts.shows('failure') || this.querySelector('aurelian-consent') !== null;
    if (!told) showNote(error);
  }

  readonly #pressed = (event: Event): void => {
    const pressed = this.#parts.actOf(event.target);
    if (pressed === undefined) return;
    if (pressed.act === 'submit' || pressed.element.closest('form') !== null) event.preventDefault();
    this.#act(pressed.act, pressed.element);
  };

  readonly #submitted = (event: Event): void => {
    if (event.target instanceof HTMLFormElement)
      leaveOutEmpty(event.target, (event as FormDataEvent).formData);
  };

  /** A place that was chosen in `<aurelian-find>` is a fix like any other. */
  readonly #chosen = (event: HTMLElementEventMap['choose']): void => {
    const { at, fix } = event.detail;
    if (fix === undefined && (event.target as Element).localName === 'aurelian-find')
      this.receiver?.placeByHand(at);
  };

  #act(act: Act, element?: Element): void {
    const { receiver } = this;
    if (receiver === undefined) return;
    try {
      void Promise.resolve(this.#perform(act, receiver, element)).catch((error: unknown) => {
        if (!(error instanceof NoFixError)) tellAuthor(error); // a failure to get a fix is shown by the status
      });
    } catch (error) {
      tellAuthor(error); // an attribute with an impossible value
    }
  }

  #perform(act: Act, receiver: Receiver, element: Element | undefined): unknown {
    switch (act) {
      case 'ask':
        return receiver.ask();
      case 'locate':
        return receiver.fix(this.#options('accuracy', 'patience'));
      case 'submit':
        return receiver.fix(this.#options('accuracy', 'patience')).then(() => {
          this.#show(); // the fields are filled before they are sent
          element?.closest('form')?.requestSubmit();
        });
      case 'follow':
        this.#begin(receiver);
        return undefined;
      case 'stop':
        return this.following?.stop();
      case 'remedy': {
        const status = receiver.$status.get();
        return status.state === 'failed' ? status.error.remedy.act?.() : undefined;
      }
      case 'send': {
        const fix = receiver.$fix.get();
        const format = this.#format;
        return fix && this.#send(fix, format);
      }
    }
  }

  async #send(fix: Fix, format: Formatter): Promise<void> {
    try {
      this.#sent = await sendPlace(fix, { address: this.#place.address, format });
    } catch (error) {
      this.#sent = 'failed';
      throw error;
    } finally {
      this.#soon();
    }
  }

  #begin(receiver: Receiver): void {
    if (this.following !== undefined) return;
    const profile = this.getAttribute('profile') as ProfileName | null;
    const options: FollowOptions = {
      ...this.#options('accuracy', 'every', 'beyond'),
      ...(profile !== null && { profile }),
      owner: this,
    };
    const follow = receiver.follow(options);
    this.#walk = new RunningSummary();
    this.#follow = follow;
    follow.onEvent(({ kind }) => {
      if (kind !== 'gap') return;
      this.#walk?.breakSegment();
      this.#fences.breakSegment();
    });
    this.#soon();
  }

  #options<Name extends string>(...names: readonly Name[]): { [Each in Name]?: number } {
    const given: { [Each in Name]?: number } = {};
    for (const name of names) {
      const text = this.getAttribute(name);
      if (text !== null) given[name] = numberOf(`<aurelian-receiver>: ${name}`, text);
    }
    return given;
  }

  get #format(): Formatter {
    return this.#formats.of(this.closest('[lang]')?.getAttribute('lang') ?? '', this.getAttribute('units'));
  }

  /** Shows everything once, after all changes of this turn. */
  #soon(): void {
    if (this.#due) return;
    this.#due = true;
    queueMicrotask(() => {
      this.#due = false;
      this.#show();
    });
  }

  #show(): void {
    const { receiver } = this;
    if (receiver === undefined || this.#current === undefined) return;
    const state: PageState = {
      purpose: receiver.purpose,
      fix: receiver.$fix.get(),
      age: this.#current.$age.get(),
      access: receiver.$access.get(),
      status: receiver.$status.get(),
      following: this.following !== undefined,
      walked: this.#walk?.summary(),
      address: this.#place.address,
      inside: this.#fences.inside,
      sent: this.#sent,
      format: this.#format,
    };
    this.#parts.show(state);
  }

  #dispatch(name: string, detail: object): void {
    this.dispatchEvent(new CustomEvent(name, { detail, bubbles: true, composed: true }));
  }
}

/** Whether a change is that of a part that shows a value: the element itself has written it. */
function isShown({ type, target }: MutationRecord): boolean {
  return type === 'childList' && target instanceof Element && target.hasAttribute('data-shows');
}

/** A receiver and what was made with it. */
interface Held {
  readonly receiver: Receiver;
  readonly $age: LiveValue<number | undefined>;
  readonly close: () => void;
}

define('aurelian-receiver', ReceiverElement);

declare global {
  interface HTMLElementTagNameMap {
    'aurelian-receiver': ReceiverElement;
  }
  interface GlobalEventHandlersEventMap {
    /** Dispatched by `<aurelian-receiver>`: a fix came. */
    receiverfix: CustomEvent<{ readonly fix: Fix }>;
    /** Dispatched by `<aurelian-receiver>`: no fix is to be had. */
    receiverfailure: CustomEvent<{ readonly error: NoFixError }>;
    /** Dispatched by `<aurelian-receiver>`: a fence was crossed. */
    receivercrossing: CustomEvent<{ readonly crossing: Crossing }>;
  }
}
