import { InputError } from '../check/input-error.js';
import { positionProblem, type Position } from '../geodesy/position.js';
import { xmlDecimal } from './xml.js';

/** Content of a geo URI (RFC 5870): WGS 84, with the altitude above its ellipsoid. */
export interface GeoUriPlace extends Position {
  /** Metres above the ellipsoid. */
  readonly altitude?: number;
  /** Uncertainty in metres. */
  readonly accuracy?: number;
}

const NUMBER = String.raw`-?\d+(?:\.\d+)?`;
const URI = new RegExp(`^geo:(${NUMBER}),(${NUMBER})(?:,(${NUMBER}))?((?:;[^;]+)*)$`, 'i');

/**
 * Writes a place as a geo URI, `geo:44.2,-33.6;u=7`, which other programs open on their own map. An altitude is written
 * only when it is given, and must be above the ellipsoid.
 */
export function writeGeoUri({ lat, lon, altitude, accuracy }: GeoUriPlace): string {
  const problem = positionProblem(lat, lon);
  if (problem !== undefined) throw new InputError('impossible-position', problem);
  // All longitudes are equal at the poles, and so are +180 and −180 (section 3.4.2).
  const east = Math.abs(lat) === 90 ? 0 : lon === 180 ? -180 : lon;
  const height = altitude === undefined ? '' : `,${xmlDecimal(altitude + 0)}`;
  const spread = accuracy === undefined ? '' : `;u=${xmlDecimal(accuracy)}`;
  return `geo:${xmlDecimal(lat + 0)},${xmlDecimal(east + 0)}${height}${spread}`;
}

/**
 * Reads a geo URI; `undefined` for another text.
 *
 * @throws {InputError} for another reference system than WGS 84, and for an impossible position.
 */
export function readGeoUri(text: string): GeoUriPlace | undefined {
  const match = URI.exec(text.trim());
  if (match === null) return undefined;
  const parameters = new Map(
    (match[4] ?? '')
      .split(';')
      .filter((part) => part !== '')
      .map((part): [string, string] => {
        const [name = '', value = ''] = part.split('=', 2);
        return [name.toLowerCase(), value];
      }),
  );
  const system = parameters.get('crs');
  if (system !== undefined && system.toLowerCase() !== 'wgs84')
    throw new InputError('bad-value', `the geo URI is in "${system}"; only wgs84 is known`);
  const [lat, lon] = [Number(match[1]), Number(match[2])];
  const problem = positionProblem(lat, lon);
  if (problem !== undefined) throw new InputError('impossible-position', problem);
  const altitude = match[3] === undefined ? undefined : Number(match[3]);
  const spread = parameters.get('u');
  const accuracy = spread !== undefined && /^\d+(?:\.\d+)?$/.test(spread) ? Number(spread) : undefined;
  return {
    lat: lat + 0,
    lon: Math.abs(lat) === 90 ? 0 : lon + 0,
    ...(altitude !== undefined && { altitude }),
    ...(accuracy !== undefined && { accuracy }),
  };
}
