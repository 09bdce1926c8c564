import { browserSource, systemClock, type Clock, type Source } from 'aurelian-drift';
import { CREDIT, islandAddress } from './island.js';
import { groundOr } from './own-map.js';
import { behaviourAsked, isPretend, makePretend } from './pretend.js';
import { showPanel } from './pretend-panel.js';

/** A lane of the island, from the hamlet of Tolvay. */
const LANE = [
  { lat: 44.2031, lon: -33.5812 },
  { lat: 44.2062, lon: -33.5774 },
  { lat: 44.2091, lon: -33.5729 },
];

/**
 * Where a page gets its positions, and by which clock: the browser, or with `?pretend` in its address a pretend device
 * that moves along a lane, with a panel.
 */
export function where(): { source: Source; clock: Clock } {
  if (!isPretend()) return { source: browserSource(), clock: systemClock };
  const pretend = makePretend(behaviourAsked(), { route: LANE, gait: 'cycle', warmUp: 0 });
  showPanel({ pretend, text: 'A pretend device on a lane of Vanesk. This is not where you are.' });
  return { source: pretend.device, clock: pretend.clock };
}

/**
 * How the map of a page looks: in the light that the device prefers; on the visitor’s own ground, else on the island
 * for the pretend device, and on a grid for a real one.
 */
export const look = () =>
  ({ theme: 'auto', ...(isPretend() ? groundOr(islandAddress(), CREDIT) : groundOr('grid', '')) }) as const;

export { tapsOn } from './pretend-panel.js';
