/*
 * For `aurelian-drift-node` of exactly the same version, and the tests of both: shared parts that are not public. They
 * may change with any version.
 */

export { formatValue } from './core/check/number.js';
export { abortSignal, anything, checkOptions, numberFrom, yesOrNo } from './core/check/options.js';
export { closest, suggestion } from './core/check/suggest.js';
export { CROSSING_KINDS } from './core/fence/crossing.js';
export type { FenceShape } from './core/fence/fence.js';
export { shapeOf } from './core/fence/shape.js';
export {
  GPX_END,
  GPX_SEGMENT_BREAK,
  GPX_TRACK_END,
  gpxStart,
  gpxTrackPoint,
  gpxTrackStart,
} from './core/formats/gpx/gpx-write.js';
export { parseTime, timeText } from './core/formats/time.js';
export {
  emptyText,
  endReading,
  strictly,
  deliverTracks,
  TrackGatherer,
} from './core/formats/track-document.js';
export { formatNamed, formatOfEnding, formatOfFile, FORMATS } from './core/formats/track-format.js';
export { xmlText } from './core/formats/xml.js';
export type { RestFigures } from './core/motion/stride.js';
export { patternProblem } from './core/place/address.js';
export { NEAR_ORDERS } from './core/place/gazetteer.js';
export { languageProblem } from './core/place/languages.js';
export { partyUsersFrom, type PartyUser } from './core/presence/users.js';
export { SHADINGS, TRAIL_PATHS, type Shading } from './core/scene/layers/trail.js';
export { THEMES } from './core/scene/theme.js';
export { passThrough } from './core/trail/part.js';
export { lineOf } from './core/trail/line-of.js';
export { Emitter } from './live/emitter.js';
export { closedByAwaitUsing, closedByUsing } from './live/dispose.js';
export { Lifetime } from './live/lifetime.js';
export { warnOfListener } from './live/listener.js';
export { consoleWarn } from './live/warn.js';
export {
  MANIFEST,
  MANIFEST_CHOICES,
  MANIFEST_PERMISSIONS,
  meantKey,
  meantPermission,
  PAGE_CHOICES,
  PLIST,
  PLIST_CHOICES,
  PLIST_KEYS,
  POLICY,
} from './preflight/declarations.js';
export { frameAllowProblem, frameAllows, headerPolicyProblem, originOf } from './preflight/policy.js';
export { purposeProblem, shortened } from './preflight/purpose-text.js';
export { shelfStore } from './recorder/shelf-store.js';
export type { Shelf } from './recorder/shelf.js';
export { TrailPyramid } from './core/scene/trail-pyramid.js';
export { CanvasPainter } from './map/canvas-painter.js';
export { alarmOfText, alarmText } from './core/presence/alarm-layout.js';

import { FROM_PAGE } from './sources/bridge-page-messages.js';
import { FROM_SHELL } from './sources/bridge-shell-messages.js';
export { BRIDGE_VERSION, MOST } from './sources/bridge-version.js';
/** The schemas of the messages of the bridge, by the side that says them. */
export const bridgeMessages: Readonly<Record<'ofPage' | 'ofShell', Readonly<Record<string, unknown>>>> = {
  ofPage: FROM_PAGE,
  ofShell: FROM_SHELL,
};
