import { Command } from 'commander';
import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { partyBroker } from '../services/party-broker.js';
import { placesServer } from '../services/places-server.js';
import { WayFinder, networkWays } from 'aurelian-drift/ways';
import { asked } from './asked.js';
import { counted } from './counted.js';
import { readGazetteer } from './gazetteers.js';
import { Misuse } from './misuse.js';
import { readNetwork } from './networks.js';
import { readUsers } from './party-link.js';
import { countArgument, integerArgument } from './quantities.js';

interface Options {
  readonly port: number;
  readonly host: string;
  readonly places: string;
  readonly network: string;
  readonly pages?: string;
  readonly party: string;
  readonly mqttPort?: number;
  readonly maxRate: number;
  readonly log?: boolean;
}

/** The example pages, where they have been built: in a checkout. */
const PAGES = fileURLToPath(new URL('../../../../build/pages', import.meta.url));

export function serveCommand(): Command {
  return new Command('serve')
    .description('run the stand-in services and the example pages on this machine')
    .option('--port <port>', 'port of the service, or 0 for any free one', integerArgument, 4180)
    .option('--host <host>', 'address to listen at', 'localhost')
    .option('--places <file>', 'GeoJSON of the gazetteer, or demo for the island', 'demo')
    .option('--network <file>', 'GeoJSON of the lanes for ways, or demo for the island', 'demo')
    .option(
      '--pages <folder>',
      'folder of pages to serve at / (default: the example pages, if they are built)',
    )
    .option('--party <file>', 'JSON of the users of a party, or demo for the demo party', 'demo')
    .option(
      '--mqtt-port <port>',
      'port of the broker over TCP (default: the one after --port)',
      integerArgument,
    )
    .option('--max-rate <count>', 'largest number of requests a second from one address', countArgument, 50)
    .option('--log', 'write a line per request to standard error, without the position')
    .action(async ({ port, host, places, network, pages, party, mqttPort, maxRate, log }: Options) => {
      const brokerPort = mqttPort ?? (port === 0 ? 0 : port + 1);
      for (const each of [port, brokerPort])
        if (each > 65_535) throw new Misuse(`a port is 0 to 65535, got ${each}`);
      const users = await readUsers(party);
      if (pages !== undefined && !existsSync(pages)) throw new Misuse(`${pages}: there is no such folder`);
      const folder = pages === undefined ? (existsSync(PAGES) ? PAGES : undefined) : resolve(pages);
      const gazetteer = await readGazetteer(places);
      const finder = new WayFinder(await readNetwork(network));
      const server = await placesServer({
        gazetteer,
        ways: networkWays(finder),
        maxRate,
        ...(folder !== undefined && { pages: folder }),
        ...(log === true && { log }),
      });
      const { port: own } = new URL(await server.listen({ port, host }));
      const address = `http://${host.includes(':') ? `[${host}]` : host}:${own}`;
      process.stdout.write(
        `${gazetteer.size} places at ${address}/places/at, ${address}/places/near, ${address}/places/named\n`,
      );
      process.stdout.write(`ways over ${counted(finder.network.edgeCount, 'lane')} at ${address}/ways\n`);
      if (folder !== undefined) process.stdout.write(`pages at ${address}/\n`);
      const broker = await partyBroker({ users, port: brokerPort, host, server: server.server });
      process.stdout.write(
        `a broker for ${users.length} users at ${broker.address ?? ''} and ${address.replace('http', 'ws')}/party\n`,
      );
      process.stdout.write('Ctrl+C ends\n');
      await asked();
      await broker.close();
      await server.close();
    });
}
