import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { Fix } from '../core/fix/fix.js';
import type { Follow } from '../receiver/follow.js';
import type { Receiver } from '../receiver/receiver.js';
import { isTooCoarse, REVEAL_AFTER } from '../receiver/reveal.js';
import { failureText, type FailureTables } from '../core/texts/failure-text.js';
import type { FailureText, MapTexts } from '../core/texts/texts.js';
import type { MapNote } from './notes.js';

/** Receives the own place and its notes. */
export interface OwnPlaceSink {
  fix(fix: Fix | undefined): void;
  /** The current note: waiting, or a failure; `undefined` for none. */
  note(kind: 'no-fix' | 'refused', note: MapNote | undefined): void;
  changed(): void;
  /** Texts for the user: those of the map, and of failures where they are not in English. */
  texts(): { readonly map: MapTexts; readonly failures: FailureTables | undefined };
}

/**
 * The own place on a map, from a receiver: shown or hidden, with a follow of the map while it is shown. Follows of the
 * app are not affected.
 */
export class OwnPlace {
  readonly #receiver: Receiver;
  readonly #sink: OwnPlaceSink;
  readonly #ends: (() => void)[] = [];
  #follow: Follow | undefined;
  /** Whether the app hid the own place: then fixes of other follows do not show it. */
  #hidden = false;
  /** Whether a fix was shown, and the latest one that was too coarse to be the first, with its timer. */
  #revealed = false;
  #held: Fix | undefined;
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(receiver: Receiver, sink: OwnPlaceSink) {
    this.#receiver = receiver;
    this.#sink = sink;
    this.#ends.push(
      receiver.$fix.subscribe((fix) => {
        // A place given by hand, or asked for once, is shown too.
        const found = fix?.origin === 'manual' || receiver.$status.get().state === 'ready';
        const reported = found || this.shown || receiver.follows.length > 0;
        if (fix !== undefined && reported && !this.#hidden) this.#take(fix);
      }),
      receiver.$status.subscribe((status) =>
        this.#report(status.state === 'failed' ? status.error : undefined, status.state),
      ),
    );
  }

  /** Whether the map itself follows. */
  get shown(): boolean {
    return this.#follow?.running === true;
  }

  show(): void {
    this.#hidden = false;
    if (this.shown) return;
    const follow = this.#receiver.follow();
    this.#follow = follow;
    follow.onFix(() => {});
    follow.onEvent((event) => {
      if (event.kind === 'failed') this.#report(event.error, 'failed');
      this.#sink.changed();
    });
    this.#sink.changed();
  }

  hide(): void {
    this.#hidden = true;
    this.#follow?.stop();
    this.#follow = undefined;
    this.#reveal(undefined);
    this.#revealed = false;
    this.#sink.note('no-fix', undefined);
    this.#sink.note('refused', undefined);
    this.#sink.changed();
  }

  close(): void {
    for (const end of this.#ends.splice(0)) end();
    clearTimeout(this.#timer);
    this.#follow?.stop();
  }

  /** Shows a fix. A first one that is too coarse is held back for some seconds, as a better one may come. */
  #take(fix: Fix): void {
    if (this.#revealed || !isTooCoarse(fix)) {
      this.#reveal(fix);
      return;
    }
    this.#held = fix;
    this.#timer ??= setTimeout(() => {
      this.#reveal(this.#held);
      this.refresh();
    }, REVEAL_AFTER * 1000);
    this.refresh();
  }

  #reveal(fix: Fix | undefined): void {
    clearTimeout(this.#timer);
    this.#timer = this.#held = undefined;
    this.#revealed = true;
    this.#sink.fix(fix);
  }

  /** Writes the notes again, after a change of language. */
  refresh(): void {
    const status = this.#receiver.$status.get();
    this.#report(status.state === 'failed' ? status.error : undefined, status.state);
  }

  #report(error: NoFixError | undefined, state: string): void {
    const texts = this.#sink.texts();
    const show = () => this.show();
    const idle = this.#receiver.$fix.get() === undefined && state === 'idle' && !this.shown;
    const passing = error?.kind === 'timed-out' || error?.kind === 'no-signal';
    const failure =
      error &&
      (texts.failures === undefined
        ? { happened: error.userText, help: error.remedy.text }
        : failureText(error.kind, error.inApp, texts.failures));
    const act = error?.remedy.act;
    let note: MapNote | undefined;
    if (state === 'asking') note = noteOf(texts.map.waitingForAnswer);
    else if (state === 'waiting' || this.#held !== undefined) note = noteOf(texts.map.waitingForPosition);
    else if (idle) note = noteOf(texts.map.noPosition, { label: texts.map.showPlace, run: show });
    else if (passing && failure !== undefined)
      note = noteOf(failure, { label: texts.map.tryAgain, run: show });
    this.#sink.note('no-fix', note);
    const run = act === undefined ? show : () => void act();
    const label = act === undefined ? texts.map.tryAgain : texts.map.doIt;
    this.#sink.note(
      'refused',
      failure === undefined || passing ? undefined : noteOf(failure, { label, run }),
    );
  }
}

function noteOf({ happened, help }: FailureText, act?: MapNote['act']): MapNote {
  return { text: happened, help, ...(act !== undefined && { act }) };
}
