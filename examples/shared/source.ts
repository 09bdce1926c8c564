import { browserSource, type Source } from 'aurelian-drift';
import { SimulatedDevice } from 'aurelian-drift/testing';

/** A lane of the island, from the hamlet of Tolvay. */
const LANE = [
  { lat: 44.2031, lon: -33.5812 },
  { lat: 44.2062, lon: -33.5774 },
  { lat: 44.2091, lon: -33.5729 },
];

/** Where a page gets its positions: the browser, or with `?pretend` in its address a pretend device that walks. */
export function source(): Source {
  const pretends = typeof location !== 'undefined' && new URLSearchParams(location.search).has('pretend');
  return pretends ? new SimulatedDevice({ route: LANE, gait: 'cycle', warmUp: 0 }) : browserSource();
}
