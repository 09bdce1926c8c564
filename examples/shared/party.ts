import { mqttBroker, type Broker } from 'aurelian-drift/presence';

/** The demo party, whose passwords are public: `aurelian serve` starts a broker that knows it. */
export const PARTY = 'vanesk';
export const WARDENS = [
  { id: 'mirel', name: 'Mirel' },
  { id: 'tavi', name: 'Tavi' },
  { id: 'osk', name: 'Osk' },
] as const;
export const demoPassword = (id: string) => `demo-${id}`;

/** The address of the party’s broker: the host of the page, unless ?broker= names another. */
export function brokerAddress(): string {
  const own = `${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}/party`;
  return new URLSearchParams(location.search).get('broker') ?? own;
}

export function partyBroker(username: string, password: string): Broker {
  return mqttBroker(brokerAddress(), { username, password });
}
