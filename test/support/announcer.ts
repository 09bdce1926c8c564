import { Receiver } from 'aurelian-drift';
import { processLife } from 'aurelian-drift-node';
import { Presence, mqttBroker } from 'aurelian-drift/presence';
import { previewSource } from 'aurelian-drift/testing';

/** A program that shares its position until it is asked to end: `announcer.ts BROKER MEMBER [own end]`. */
const [, , address = '', member = '', own] = process.argv;
const broker = mqttBroker(address, { username: member, password: `${member}-1234` });
const receiver = new Receiver({ source: previewSource({ lat: 44.2, lon: -33.6 }), purpose: 'Test.' });
const presence = new Presence({
  party: 'vanesk',
  member,
  broker,
  recipients: ['the hut'],
  life: processLife({ grace: 60 }),
});
// Another part of the program is notified of the end as well.
processLife({ grace: 60 }).onEvent(() => undefined);
if (own !== undefined) process.on('SIGTERM', () => setTimeout(() => process.exit(7), 500));
process.stdout.write(`${await presence.join(receiver.follow())}\n`);
