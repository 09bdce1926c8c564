import { Veil, ahead, type Fence, type Follow } from 'aurelian-drift';
import { PartyWatch, Presence, type Member, type PresenceOptions } from 'aurelian-drift/presence';
import { memoryBroker, type MemoryBroker, type SimulatedDeviceOptions } from 'aurelian-drift/testing';
import { hut, setUp } from './device.js';

export const PARTY = 'vanesk';

/** A section 200 m east of the hut, 200 m wide. */
export const section: Fence = {
  kind: 'circle',
  id: 'orchard',
  name: 'Orchard',
  centre: ahead(hut, 90, 300),
  radius: 100,
};

/** A member’s device and its announcement, on one virtual clock with a broker in memory. */
export function member(
  id = 'ines',
  options: Partial<PresenceOptions> & { readonly shared?: MemoryBroker } = {},
  device: SimulatedDeviceOptions = {},
) {
  const parts = setUp({ permission: 'granted', warmUp: 0, ...device });
  const { shared, ...more } = options;
  const broker = shared ?? memoryBroker({ clock: parts.clock });
  const presence = (over: Partial<PresenceOptions> = {}) =>
    new Presence({
      party: PARTY,
      member: id,
      broker,
      recipients: ['the hut'],
      life: parts.device.life,
      clock: parts.clock,
      warn: (text) => parts.warnings.push(text),
      ...more,
      ...over,
    });
  const follow = (): Follow => parts.receiver.follow();
  return { ...parts, broker, presence, follow };
}

/** A watcher of the party on the same clock, with its events. */
export async function watcher({ clock, broker }: Pick<ReturnType<typeof member>, 'clock' | 'broker'>) {
  const watch = new PartyWatch({ party: PARTY, broker, clock });
  const reported: string[] = [];
  watch.onEvent((event) => event.kind !== 'alarm' && reported.push(`${event.member.id} ${event.kind}`));
  await clock.advance(0.5);
  const one = (id = 'ines'): Member | undefined => watch.$members.get().find((each) => each.id === id);
  return { watch, reported, one };
}

/** An area around the hut that is not shared. */
export const home = new Veil([{ kind: 'circle', id: 'home', name: 'Home', centre: hut, radius: 300 }], {
  margin: 200,
});
