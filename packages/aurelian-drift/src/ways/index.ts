/* Ways: a network of lanes, the ways over it, and services for ways. */

export {
  LaneWatch,
  matchTrail,
  trailMatchOf,
  type MatchOptions,
  type MatchedPart,
  type TrailMatch,
  type TravelledLane,
} from '../core/network/match-trail.js';
export type { LaneMatch, LaneSight } from '../core/network/lane-matcher.js';
export { networkFrom, type NetworkOptions } from '../core/network/network-builder.js';
export { faultText, type NetworkFault, type NetworkFaultKind } from '../core/network/network-faults.js';
export type { EdgePlace, Stretch } from '../core/network/lane-graph.js';
export type { Network } from '../core/network/network.js';
export {
  TRAVEL_KINDS,
  TRAVEL_RULES,
  type LaneProperties,
  type TravelKind,
  type TravelRule,
} from '../core/network/travel-kinds.js';
export type { Preference } from '../core/network/travel.js';
export { TURNS, type Turn } from '../core/network/turns.js';
export { NoWayError, type NoWayKind, type Way, type WayRequest, type WayStep } from '../core/network/way.js';
export { WayFinder, type WayFinderOptions } from '../core/network/way-finder.js';
export { noWayToGeoJson, waysFrom, waysToGeoJson } from '../core/network/way-geojson.js';
export { noWayText, stepText, type WayTextOptions } from '../core/network/way-text.js';
export { SERVICE_ERROR_KINDS, type ServiceErrorKind } from '../core/service/service-error-kinds.js';
export { ServiceError, type ServiceErrorDetail } from '../core/service/service-error.js';
export { httpWays } from './http-ways.js';
export { networkWays, type PlainWay, type WayProvider, type WayService } from './way-service.js';
export { WayLookUp, type WayLookUpOptions } from './way-look-up.js';
export { WayWatch, type WayReading, type WayWatchOptions } from './way-watch.js';
