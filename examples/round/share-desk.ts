import { positionText, type Clock, type Life, type Receiver } from 'aurelian-drift';
import {
  Presence,
  pageMemory,
  termsText,
  type Broker,
  type PresenceOptions,
  type PresenceStatus,
} from 'aurelian-drift/presence';
import { memoryBroker } from 'aurelian-drift/testing';
import { button, element, field, piece, write } from '../shared/page.js';
import { PARTY, WARDENS, demoPassword, partyBroker } from '../shared/party.js';

export interface ShareParts {
  readonly receiver: Receiver;
  readonly life: Life | undefined;
  readonly clock: Clock;
  /** With a fast clock the position can be shared only with a pretend hut. */
  readonly pretend: boolean;
}

/** The switch that shares the position with the party, and its meaning: who sees what, how exactly, and until when. */
export class ShareDesk {
  readonly #parts: ShareParts;
  readonly #broker: Broker;
  readonly #id: string;
  #presence: Presence;
  #unlisten = () => {};

  constructor(parts: ShareParts) {
    this.#parts = parts;
    const settings = new URLSearchParams(location.search);
    this.#id = settings.get('as') ?? WARDENS[0].id;
    const pretend = parts.pretend && !settings.has('broker');
    this.#broker = pretend
      ? memoryBroker({ clock: parts.clock })
      : partyBroker(this.#id, settings.get('password') ?? demoPassword(this.#id));
    this.#presence = this.#made();
  }

  show(): void {
    element('share-part').hidden = false;
    button('share').addEventListener('click', () => void this.#toggle());
    button('take-back').addEventListener('click', () => {
      element('shared-before').hidden = true;
      void this.#presence.leave();
    });
    for (const id of ['share-rounding', 'share-limit'])
      element(id).addEventListener('change', () => {
        this.#presence = this.#made();
      });
    const { before } = this.#presence;
    if (before !== undefined) {
      const when = new Date(before.since).toLocaleString('en-GB', {
        dateStyle: 'medium',
        timeStyle: 'short',
      });
      write(
        'shared-before-text',
        `You were sharing since ${when} when this page ended. It is off now: switch it on again, or ` +
          `take back what is left.`,
      );
      element('shared-before').hidden = false;
    }
    write(
      'share-rest',
      'A page shares while it is seen. In a pocket the phone rests: the hut is told that you are ' +
        'asleep, and keeps your last place. To go on, keep the screen on.',
    );
    this.#tellTerms();
    setInterval(() => this.#tellTerms(), 5000);
  }

  #made(): Presence {
    const { life, clock } = this.#parts;
    const number = (id: string) => (field(id).value === '' ? undefined : Number(field(id).value));
    const [rounding, limit] = [number('share-rounding'), number('share-limit')];
    const options: PresenceOptions = {
      party: PARTY,
      member: this.#id,
      name: WARDENS.find(({ id }) => id === this.#id)?.name ?? this.#id,
      broker: this.#broker,
      recipients: [
        this.#broker.name === 'a broker in memory'
          ? 'a pretend hut in this page'
          : `the wardens’ hut, at ${this.#broker.name}`,
      ],
      clock,
      memory: pageMemory(),
      ...(life !== undefined && { life }),
      ...(rounding !== undefined && { rounding }),
      ...(limit !== undefined && { limit }),
    };
    const presence = new Presence(options);
    this.#unlisten();
    this.#unlisten = presence.$status.subscribe((status) => this.#report(presence, status));
    return presence;
  }

  async #toggle(): Promise<void> {
    if (this.#presence.on) await this.#presence.leave();
    else {
      element('shared-before').hidden = true;
      await this.#presence.join(this.#parts.receiver);
    }
  }

  #report(presence: Presence, status: PresenceStatus): void {
    const place = presence.latest;
    const words: Readonly<Record<PresenceStatus['state'], string>> = {
      off: 'Off: nobody sees you.',
      joining: 'Switching on…',
      sharing:
        status.state === 'sharing' && status.veiled
          ? 'On. You are in a private area: your place is not sent.'
          : 'On: you are seen.',
      unreachable: 'On, without a network: what is not sent yet is sent later.',
      asleep: 'Asleep: this page rests, and the hut knows.',
      leaving: 'Off. The hut is told as soon as the network is back.',
      refused: status.state === 'refused' ? `Off: ${status.reason}.` : '',
    };
    write('share-state', words[status.state]);
    button('share').setAttribute('aria-checked', String(presence.on));
    element('share-choices').hidden = presence.on;
    this.#tellTerms(presence);
    if (place !== undefined) button('share').title = `Sent last: ${positionText(place)}`;
  }

  #tellTerms(presence = this.#presence): void {
    const { terms, latest } = presence;
    const sentences = termsText(terms, this.#parts.clock.now());
    const seen = latest === undefined ? [] : [`They see now: ${positionText(latest)}.`];
    const texts = [...sentences, ...seen];
    const list = element('share-terms');
    if (list.textContent !== texts.join('')) list.replaceChildren(...texts.map((text) => piece('li', text)));
  }
}
