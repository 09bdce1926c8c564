import { earthCentredInto, positionOfEarthCentred } from '../geodesy/earth-centred.js';
import type { Place, PlaceLevel } from './place.js';
import type { PlaceTable } from './place-table.js';

/* Places that occur only in the addresses of others. */

/** Levels of places that occur as parts of addresses. */
const PART_LEVELS = ['locality', 'region', 'country'] as const;

/** Adds a place for each street that occurs in addresses only, at its middle house. */
export function deriveStreets(table: PlaceTable): void {
  const streets = table.streets.size;
  const there = new Uint8Array(streets);
  const counts = new Uint32Array(streets);
  for (let i = 0; i < table.size; i++) {
    const street = table.streetOf[i] as number;
    if (table.kind(i).level === 'street') there[street] = 1;
    else counts[street] = (counts[street] as number) + 1;
  }
  const middles = new Uint32Array(streets);
  const seen = new Uint32Array(streets);
  for (let i = 0; i < table.size; i++) {
    const street = table.streetOf[i] as number;
    if (seen[street] === (counts[street] as number) >> 1) middles[street] = i;
    seen[street] = (seen[street] as number) + 1;
  }
  for (let street = 0; street < streets; street++) {
    if (table.streets.firsts[street] === 0 || there[street] === 1) continue;
    const middle = middles[street] as number;
    table.addStreet(street, { lat: table.lats[middle] as number, lon: table.lons[middle] as number });
  }
}

/** Adds a place for each locality, region and country that occurs in addresses only, in the middle of its streets. */
export function deriveAreas(table: PlaceTable): void {
  const areas = table.areas.size; // the loop also adds places
  const sums = new Float64Array(3 * areas);
  const point = new Float64Array(3);
  const there = new Set<string>();
  for (let i = 0; i < table.size; i++) {
    const { level } = table.kind(i);
    // Every house has a street, which is a place by now; a house without one counts by itself.
    if (level === 'house' && table.streets.firsts[table.streetOf[i] as number] !== 0) continue;
    earthCentredInto(point, 0, table.lats[i] as number, table.lons[i] as number);
    const area = table.areaOf(i);
    for (let axis = 0; axis < 3; axis++)
      sums[3 * area + axis] = (sums[3 * area + axis] as number) + (point[axis] as number);
    if (level !== 'house' && level !== 'spot' && level !== 'street') there.add(key(level, table.name(i)));
  }
  for (const level of PART_LEVELS) {
    const derived = new Map<string, { place: Omit<Place, 'lat' | 'lon'>; sum: number[] }>();
    for (let area = 0; area < areas; area++) {
      const { locality, region, country, ...rest } = table.areaAddress(area);
      const name = { locality, region, country }[level];
      if (name === undefined || there.has(key(level, name))) continue;
      const above = {
        ...(level === 'locality' && region !== undefined && { region }),
        ...(level !== 'country' && country !== undefined && { country }),
      };
      const id = [name, ...Object.values(above)].join('\n');
      const entry = derived.get(id) ?? {
        place: { kind: level, level, name, ...above, ...(level === 'locality' && rest) },
        sum: [0, 0, 0],
      };
      derived.set(id, entry);
      for (let axis = 0; axis < 3; axis++)
        entry.sum[axis] = (entry.sum[axis] as number) + (sums[3 * area + axis] as number);
    }
    for (const { place, sum } of derived.values()) {
      const [x, y, z] = sum as [number, number, number];
      table.add({ ...place, ...positionOfEarthCentred(x, y, z) });
    }
  }
}

function key(level: PlaceLevel, name: string): string {
  return `${level}\n${name}`;
}
