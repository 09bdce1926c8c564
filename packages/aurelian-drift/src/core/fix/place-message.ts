import { anything, checkOptions, someText } from '../check/options.js';
import { writeGeoUri } from '../formats/geo-uri.js';
import type { Fix } from './fix.js';
import { Formatter } from './formatter.js';

/** Options of `placeMessage`. */
export interface PlaceMessageOptions {
  /** What is there, such as the address. Default: left out. */
  readonly address?: string | undefined;
  /** A line of the user's own, before the rest. Default: none. */
  readonly note?: string | undefined;
  /** Formats the position, its radius and the time. Default: by the platform, in metres. */
  readonly format?: Formatter;
}

/**
 * A place as a message for another person: the address where it is known, the position with its radius, the time of the
 * fix, and a `geo:` link (RFC 5870) that opens in a map.
 *
 * @throws {InputError} for a misspelt option.
 */
export function placeMessage(fix: Fix, options: PlaceMessageOptions = {}): string {
  checkOptions('placeMessage', options, { address: someText, note: someText, format: anything });
  const { address, note, format = new Formatter() } = options;
  const { lat, lon, accuracy } = fix;
  return [
    note,
    address,
    `${format.position(fix, accuracy)} ${format.accuracy(accuracy)}`.trim(),
    format.time(fix.time),
    writeGeoUri({
      lat: Number(lat.toFixed(6)),
      lon: Number(lon.toFixed(6)),
      ...(accuracy !== undefined && { accuracy: Math.ceil(accuracy) }),
    }),
  ]
    .filter((line) => line !== undefined)
    .join('\n');
}
