import {
  TRAVEL_KINDS,
  WayFinder,
  WayLookUp,
  faultText,
  httpWays,
  networkFrom,
  networkWays,
  type Network,
  type WayService,
} from 'aurelian-drift/ways';
import { fromJson } from '../files/json-text.js';
import { readText } from '../files/text-file.js';
import { orDemo } from './demo.js';
import { printable } from './tables.js';

/** Maximum number of faults of a network that are listed; more are counted. */
const REPORTED = 20;

/** Kinds of travel, for help texts. */
export const KINDS = TRAVEL_KINDS.join(', ');

/** The network of a GeoJSON file, or of the island for `demo`. Its faults are reported on standard error. */
export async function readNetwork(path: string): Promise<Network> {
  const { text, source } = await readText(orDemo(path, 'lanes'));
  const { network, faults } = fromJson(text, source, (document) => networkFrom(document));
  for (const fault of faults.slice(0, REPORTED))
    process.stderr.write(`aurelian: ${source}: ${printable(faultText(fault))}\n`);
  const more = faults.length - REPORTED;
  if (more > 0) process.stderr.write(`aurelian: ${source}: ${more} more likely faults\n`);
  return network;
}

/** Service for ways: a GeoJSON file of lanes, `demo`, or the address of a service. */
export async function waysArgument(argument: string): Promise<WayService> {
  if (/^https?:/i.test(argument)) return new WayLookUp({ provider: httpWays(argument) });
  return networkWays(new WayFinder(await readNetwork(argument)));
}
