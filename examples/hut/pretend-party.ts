import { Receiver, tracksFrom, fencesFrom, type Clock } from 'aurelian-drift';
import { PartyGuard, Presence, type Broker } from 'aurelian-drift/presence';
import { SimulatedDevice, memoryBroker } from 'aurelian-drift/testing';
import { load } from '../shared/island.js';
import { PARTY, WARDENS } from '../shared/party.js';

/** Each warden’s round, and the incidents on it, in minutes of clock time. */
const ROUNDS = {
  mirel: { round: 'Dune Round', seed: 7 },
  tavi: { round: 'Tarn Round', seed: 11, sleeps: 24, wakes: 31 },
  osk: { round: 'West Round', seed: 5, dies: 20 },
} as const;
/** Minutes without a sign of life after which the guard raises an alarm. */
const CHECK_IN = 10;

/** A pretend warden, with the phone and its link. */
export interface PretendWarden {
  readonly name: string;
  readonly device: SimulatedDevice;
  /** The phone dies: no sign of life comes from it any more. */
  die(): void;
}

/**
 * Three pretend wardens with a broker and a guard, all in this page: one phone rests for a while, another one dies.
 * Nothing leaves the page.
 */
export async function pretendParty(
  clock: Clock,
): Promise<{ readonly broker: Broker; readonly wardens: readonly PretendWarden[] }> {
  const wardens: PretendWarden[] = [];
  const broker = memoryBroker({ clock });
  const { lines } = tracksFrom(await load('rounds'));
  const guard = new PartyGuard({
    party: PARTY,
    broker,
    clock,
    fences: fencesFrom(await load('sections')),
    checkIn: CHECK_IN * 60,
  });
  await guard.start();
  for (const { id, name } of WARDENS) {
    const {
      round,
      seed,
      ...fate
    }: { round: string; seed: number; sleeps?: number; wakes?: number; dies?: number } = ROUNDS[id];
    const route = lines.find((line) => line.name === round);
    if (route === undefined) throw new Error(`the island has lost its ${round}`);
    const device = new SimulatedDevice({ route, seed, clock, permission: 'granted', background: 'none' });
    const receiver = new Receiver({ source: device, clock, purpose: 'Tells the hut where you are.' });
    const presence = new Presence({
      party: PARTY,
      member: id,
      name,
      broker,
      clock,
      recipients: ['the hut'],
      life: device.life,
      trail: 600,
    });
    const after = (minutes: number | undefined, action: () => void) =>
      minutes !== undefined && clock.after(minutes * 60, action);
    void presence.join(receiver.follow());
    after(fate.sleeps, () => device.hide());
    after(fate.wakes, () => device.show());
    const die = () => {
      const own = broker.clients.find((client) => client.includes(`.${id}.`));
      if (own !== undefined) broker.kill(own, 'silent');
    };
    after(fate.dies, die);
    wardens.push({ name, device, die });
  }
  return { broker, wardens };
}
