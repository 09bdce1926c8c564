import { ahead, fixFrom, type Fence, type Fix } from 'aurelian-drift';
import type { Alarm, SharedBefore } from 'aurelian-drift/presence';

const START = Date.UTC(2026, 4, 14, 8);
export const hut = { lat: 44.2, lon: -33.6 };

/** A circle of 100 m, 300 m east of the hut. */
export const FENCE: Fence = {
  kind: 'circle',
  id: 'orchard',
  name: 'Orchard',
  centre: ahead(hut, 90, 300),
  radius: 100,
};

/** Two fixes with all optional fields, and one with the required fields only. */
export const everyField: readonly Fix[] = [
  fixFrom({
    time: START,
    ...hut,
    accuracy: 5,
    altitude: 31.5,
    altitudeAccuracy: 9,
    altitudeDatum: 'sea',
    course: 271.25,
    speed: 1.5,
    origin: 'satellite',
    marks: ['coarse', 'late'],
  }),
  fixFrom({
    time: START + 1000,
    lat: -44.2,
    lon: 179.5,
    accuracy: 900,
    altitude: -3,
    altitudeDatum: 'ellipsoid',
    origin: 'network',
    marks: ['outlier'],
  }),
  fixFrom({ time: START + 2000, lat: 0, lon: 0 }),
];

/** East from the hut at 10 m/s, one fix a second: enters the fence after 20 s, and reaches its centre. */
const walk = (from: number, to: number): Fix[] =>
  Array.from({ length: to - from }, (_, i) =>
    fixFrom({
      time: START + 60_000 + (from + i) * 1000,
      ...ahead(hut, 90, 10 * (from + i)),
      accuracy: 5,
      origin: 'satellite',
    }),
  );
export const before: readonly Fix[] = walk(0, 31);
/** Continues from there, and leaves after 40 s. */
export const after: readonly Fix[] = walk(31, 61);

export const ALARM: Alarm = {
  id: 'ines:orchard:enter:1778745680000',
  member: 'ines',
  kind: 'enter',
  time: 1_778_745_680_000,
  fence: 'orchard',
  name: 'Orchard',
  ...hut,
  certainty: 0.97,
};
export const SHARED: SharedBefore = { party: 'vanesk', member: 'ines', since: START };
