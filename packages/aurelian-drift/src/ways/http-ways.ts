import { InputError } from '../core/check/input-error.js';
import { fencesToGeoJson } from '../core/formats/fences-write.js';
import { waysFrom } from '../core/network/way-geojson.js';
import { ServiceError } from '../core/service/service-error.js';
import { fetchedJson, serviceAddress } from '../service/fetched.js';
import type { WayProvider } from './way-service.js';

/**
 * A provider for a service with the route `/ways`, which takes a question as JSON and answers in GeoJSON, such as the
 * stand-in of this package. Positions stand in the body: servers write addresses into their logs, and bodies not.
 *
 * @param address address of the service, like `https://ways.example`.
 * @throws {InputError} for an invalid address.
 */
export function httpWays(address: string): WayProvider {
  const base = serviceAddress(address, 'https://ways.example');
  return {
    async ways({ avoid, closed, ...question }, signal) {
      const body = {
        ...question,
        ...(avoid !== undefined && { avoid: fencesToGeoJson(avoid) }),
        ...(closed !== undefined && { closed: fencesToGeoJson(closed) }),
      };
      const answer = await fetchedJson(new URL('ways', base), 'application/geo+json', signal, body);
      try {
        return waysFrom(answer);
      } catch (cause) {
        if (!(cause instanceof InputError)) throw cause;
        throw new ServiceError('unfit', { cause, note: cause.message });
      }
    },
  };
}
