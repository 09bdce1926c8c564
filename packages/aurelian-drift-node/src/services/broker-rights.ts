import { memberTopic, type Holder } from 'aurelian-drift/presence';
import type { PartyUser } from 'aurelian-drift/internal';

/** Configurations of brokers with users and their rights. */
export const RIGHTS: Readonly<Record<'mosquitto' | 'nats', (users: readonly PartyUser[]) => string>> =
  Object.freeze({ mosquitto: mosquittoRights, nats: natsUsers });

/**
 * Topic filters that a user may write and read. Brokers do not check messages: a guard may write places that it only
 * needs to remove.
 */
function filtersOf({ role, party, id }: Holder): { readonly write: string[]; readonly read: string[] } {
  const own = (['place', 'state'] as const).map((leaf) => memberTopic(party, id, leaf));
  const all = `drift/1/${party}`;
  switch (role) {
    case 'member':
      return { write: own, read: own };
    case 'viewer':
      return { write: [], read: [`${all}/+/+/+`] };
    case 'guard':
      return {
        write: ['alarm', 'place', 'state'].map((leaf) => `${all}/+/+/${leaf}`),
        read: [`${all}/+/+/+`],
      };
  }
}

/** An access list of mosquitto (`acl_file`); `mosquitto_passwd` makes the file of passwords. */
function mosquittoRights(users: readonly Holder[]): string {
  return users
    .map((user) => {
      const { write, read } = filtersOf(user);
      return [
        `user ${user.id}`,
        ...read.map((topic) => `topic read ${topic}`),
        ...write.map((topic) => `topic write ${topic}`),
      ].join('\n');
    })
    .join('\n\n')
    .concat('\n');
}

/** The `authorization` block of nats-server, whose subjects are topics with dots. */
function natsUsers(users: readonly PartyUser[]): string {
  const subject = (filter: string) => filter.replaceAll('/', '.').replaceAll('+', '*');
  const list = (filters: readonly string[]) =>
    `[${filters.map((each) => JSON.stringify(subject(each))).join(', ')}]`;
  /** An empty list would allow everything. */
  const listOrNone = (filters: readonly string[]) => (filters.length === 0 ? '{ deny: ">" }' : list(filters));
  const blocks = users.map((user) => {
    const { write, read } = filtersOf(user);
    // Deliveries of QoS 1 use subjects of the server, which clients of MQTT cannot name.
    const permissions = `{ publish: ${listOrNone(write)}, subscribe: ${list([...read, '$MQTT.sub.>'])} }`;
    return (
      `    { user: ${JSON.stringify(user.id)}, password: ${JSON.stringify(user.password)}, ` +
      `permissions: ${permissions}, allowed_connection_types: [MQTT, MQTT_WS] }`
    );
  });
  return `authorization {\n  users: [\n${blocks.join('\n')}\n  ]\n}\n`;
}
