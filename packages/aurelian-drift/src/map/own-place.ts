import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { Fix } from '../core/fix/fix.js';
import type { Follow } from '../receiver/follow.js';
import type { Receiver } from '../receiver/receiver.js';
import type { MapNote } from './notes.js';

/** What a map learns of its user's place. */
export interface OwnPlaceSink {
  fix(fix: Fix | undefined): void;
  /** Waiting, or why there is nothing; `undefined` when there is nothing to say. */
  note(kind: 'no-fix' | 'refused', note: MapNote | undefined): void;
  changed(): void;
}

/**
 * The user's own place on a map, from a receiver: shown and hidden, with a follow of the map's own while it is shown.
 * What others follow stays theirs.
 */
export class OwnPlace {
  readonly #receiver: Receiver;
  readonly #sink: OwnPlaceSink;
  readonly #ends: (() => void)[] = [];
  #follow: Follow | undefined;

  constructor(receiver: Receiver, sink: OwnPlaceSink) {
    this.#receiver = receiver;
    this.#sink = sink;
    this.#ends.push(
      receiver.$fix.subscribe((fix) => {
        // A place given by hand is to be seen, whether or not anybody follows.
        const reported = this.shown || receiver.follows.length > 0 || fix?.origin === 'manual';
        if (fix !== undefined && reported) this.#sink.fix(fix);
      }),
      receiver.$status.subscribe((status) =>
        this.#report(status.state === 'failed' ? status.error : undefined, status.state),
      ),
    );
  }

  /** Whether the map follows for its own part. */
  get shown(): boolean {
    return this.#follow?.running === true;
  }

  show(): void {
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
    this.#follow?.stop();
    this.#follow = undefined;
    this.#sink.fix(undefined);
    this.#sink.note('no-fix', undefined);
    this.#sink.note('refused', undefined);
    this.#sink.changed();
  }

  close(): void {
    for (const end of this.#ends.splice(0)) end();
    this.#follow?.stop();
  }

  #report(error: NoFixError | undefined, state: string): void {
    const waiting = state === 'waiting' || state === 'asking';
    const ask = { label: 'Show my place', run: () => this.show() };
    const waits =
      state === 'asking'
        ? { what: 'Waiting for your answer.', remedy: 'The map shows you once you allow it.' }
        : { what: 'Waiting for your position.', remedy: 'Under open sky it takes some seconds.' };
    const idle = this.#receiver.$fix.get() === undefined && state === 'idle' && !this.shown;
    this.#sink.note(
      'no-fix',
      waiting
        ? waits
        : idle
          ? { what: 'Your position is not known yet.', remedy: 'The map shows you once it is.', act: ask }
          : error?.kind === 'timed-out' || error?.kind === 'no-signal'
            ? {
                what: error.userText,
                remedy: error.remedy.text,
                act: { label: 'Try again', run: () => this.show() },
              }
            : undefined,
    );
    const refused = error !== undefined && error.kind !== 'timed-out' && error.kind !== 'no-signal';
    const act = error?.remedy.act;
    this.#sink.note(
      'refused',
      refused
        ? {
            what: error.userText,
            remedy: error.remedy.text,
            act: {
              label: act === undefined ? 'Try again' : 'Do it now',
              run: act === undefined ? () => this.show() : () => void act(),
            },
          }
        : undefined,
    );
  }
}
