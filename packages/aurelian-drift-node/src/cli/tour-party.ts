import type { Follow } from 'aurelian-drift';
import { PartyWatch, Presence, termsText, type RosterEvent } from 'aurelian-drift/presence';
import { memoryBroker, type VirtualClock } from 'aurelian-drift/testing';

const PARTY = 'vanesk';

/** The view of the hut on a warden who shared, and the remaining data. */
export interface Seen {
  readonly terms: readonly string[];
  readonly events: readonly RosterEvent[];
  /** Messages that the broker still retains. */
  readonly kept: number;
}

/**
 * Shares a follow with a hut over a broker in memory. The returned function ends sharing, and returns the view of the
 * hut.
 */
export function shareWithHut(follow: Follow, clock: VirtualClock): () => Promise<Seen> {
  const broker = memoryBroker({ clock });
  const hut = new PartyWatch({ party: PARTY, broker, clock });
  const events: RosterEvent[] = [];
  hut.onEvent((event) => event.kind !== 'alarm' && events.push(event));
  const presence = new Presence({
    party: PARTY,
    member: 'mirel',
    name: 'Mirel',
    broker,
    clock,
    recipients: ['the hut'],
    rounding: 100,
    life: { hidden: false, onEvent: () => () => {} }, // the tour is not closed on the way
  });
  const terms = termsText(presence.terms, clock.now());
  void presence.join(follow);
  return async () => {
    await clock.settle(presence.leave());
    await clock.settle(hut.close());
    return { terms, events, kept: broker.retained.size };
  };
}
