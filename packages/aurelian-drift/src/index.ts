/* The core, the receiver, the recorder and the positioning of the browser: everything that an app in a page needs. */

export { ahead } from './core/geodesy/ahead.js';
export { bearing, distance } from './core/geodesy/distance.js';
export { boundsContain, boundsOf, type Bounds } from './core/geodesy/bounds.js';
export { position, type Position } from './core/geodesy/position.js';
export { rounded } from './core/geodesy/rounded.js';

export { ClosedError } from './core/check/closed-error.js';
export { InputError, type InputErrorKind, type InputPlace } from './core/check/input-error.js';
export { fitness, type Fitness, type FixNeed } from './core/fix/fitness.js';
export {
  fixFrom,
  type AltitudeDatum,
  type Fix,
  type Mark,
  type Origin,
  type RawFix,
} from './core/fix/fix.js';
export { ANGLE_STYLES, Formatter, type AngleStyle, type FormatterOptions } from './core/fix/formatter.js';
export { UNIT_SYSTEMS, type UnitSystem } from './core/fix/units.js';
export { manualFix } from './core/fix/manual.js';
export { readPosition } from './core/fix/read-position.js';
export { NoFixError, type Remedy, type NoFixDetail } from './core/fix/no-fix-error.js';
export { NO_FIX_KINDS, REMEDY_IDS, type NoFixKind, type RemedyId } from './core/fix/no-fix-kinds.js';
export {
  ABSENT,
  accuracyText,
  ageText,
  compassPoint,
  courseText,
  durationText,
  lengthText,
  positionPair,
  positionText,
  speedText,
  type MaybeNumber,
  type PositionStyle,
} from './core/fix/words.js';

export { FixFilter } from './core/estimate/fix-filter.js';
export { MotionMeter } from './core/estimate/motion-meter.js';
export { motionText, type Motion } from './core/fix/motion.js';
export { motionOf } from './receiver/motion-of.js';
export type { FilterResult } from './core/estimate/fix-filter.js';
export { SmoothPath } from './core/estimate/smooth-path.js';
export type { FailureTables } from './core/texts/failure-text.js';
export { smoothTrail } from './core/estimate/smooth-trail.js';

export { Trail, type Segment, type TrailLabels, type NumberColumn } from './core/trail/trail.js';
export type { Extras } from './core/trail/extras.js';
export { lineSummary, type LineSummary } from './core/trail/line-summary.js';
export type { Line, LinePoint, Waypoint } from './core/trail/line.js';
export { nearestOnTrail, placeAt, resampleTrail, type TrailPoint } from './core/trail/along.js';
export { cutTrail, joinTrails, splitTrail, type SplitOptions, type TimeSpan } from './core/trail/cut.js';
export { SlopeCounter, slopeLength } from './core/trail/slope-counter.js';
export { splitsOf, SplitCounter, type Split } from './core/trail/splits.js';
export { Veil, type Veiled, type VeilOptions } from './core/trail/veil.js';
export { thinTrail, type ThinOptions } from './core/trail/thin.js';
export type { MeasureOptions, MeasuredPath, Unsmoothed } from './core/distance/distance-counter.js';
export { GIVEN_WAYS, type GivenWay, type WayOfMoving } from './core/estimate/way-of-moving.js';
export type { Stop } from './core/distance/stops.js';
export { RunningSummary, type Gap, type Summary } from './core/trail/summary.js';

export type {
  CircleFence,
  CorridorFence,
  Fence,
  PolygonFence,
  PolygonPart,
  FenceLabels,
} from './core/fence/fence.js';
export { fenceIndex } from './core/fence/fence-index.js';
export type { Crossing, CrossingKind } from './core/fence/crossing.js';
export { crossingsOf } from './core/fence/crossings-of.js';
export { fencesBounds } from './core/fence/fences-bounds.js';
export { staysOf, type Stay, type StayOptions } from './core/fence/stays.js';
export { selectCrossings, timeInsideFrom, type CrossingChoice } from './core/fence/crossing-list.js';
export { sharedFences, type SharedFences } from './core/fence/shared-fences.js';
export { timetable, type Timetable, type TimetableOptions } from './core/fence/timetable.js';
export { FenceTimes, timeInside, type TimeInside } from './core/fence/time-inside.js';
export { FenceWatch, type FenceWatchOptions } from './core/fence/watch.js';
export { planFrom, type GivenStation, type Plan, type PlanOptions, type Station } from './core/plan/plan.js';
export { planContent, plansOf } from './core/plan/plan-file.js';
export { PlanFollow, type PlanFollowOptions } from './receiver/plan-follow.js';
export { PlanWatch, progressOf } from './core/plan/plan-watch.js';
export type { PlanEvent, Progress } from './core/plan/progress.js';
export type { PlanWatchState } from './core/plan/plan-state.js';
export type { Stretches } from './core/plan/stretches.js';
export type { IndexedLine, LinePlace } from './core/geodesy/indexed-line.js';
export { smallestFence, type TooSmallFence } from './core/fence/too-small.js';
export type { FenceWatchState } from './core/fence/watch-state.js';

export type { ReadOptions, TrackContent, TrackDocument } from './core/formats/track-document.js';
export type { Note, PiecePlace, ReaderOptions, TrackReader, TrackSink } from './core/formats/track-sink.js';
export { writeGeoUri, readGeoUri, type GeoUriPlace } from './core/formats/geo-uri.js';
export { TextOutput, type Output } from './core/formats/output.js';
export { routeFrom, type RouteGiven } from './core/formats/route-from.js';
export { detectFormat, trackReader, trackWriter, type TrackFormat } from './core/formats/track-format.js';
export type { TrackWriter } from './core/formats/track-writer.js';
export { readTracks } from './core/formats/read-tracks.js';
export { readGpx } from './core/formats/gpx/gpx.js';
export { writeGpx } from './core/formats/gpx/gpx-write.js';
export { readKml } from './core/formats/kml/kml.js';
export { writeKml } from './core/formats/kml/kml-write.js';
export { readCsv } from './core/formats/csv/csv.js';
export { writeCsv } from './core/formats/csv/csv-write.js';
export { readNmea } from './core/formats/nmea/nmea.js';
export { writeNmea } from './core/formats/nmea/nmea-write.js';
export { readGeoJson, tracksFrom } from './core/formats/geojson/geojson-trail.js';
export { trailToGeoJson, writeGeoJson } from './core/formats/geojson/geojson-write.js';
export { fencesFrom, type FencesOptions } from './core/formats/geojson/geojson-fences.js';
export { fencesToGeoJson } from './core/formats/fences-write.js';
export { writeCrossingsCsv, crossingsToGeoJson } from './core/formats/crossings-write.js';

export type { AbortSignalLike } from './live/abort-signal.js';
export type { LiveValue } from './live/live-value.js';
export type { Warn } from './live/warn.js';

export { ageOf } from './receiver/age-of.js';
export type { Access, AccessReading, AccessLevel } from './receiver/access.js';
export { systemClock, type Clock } from './receiver/clock.js';
export type { Explain, Explanation } from './receiver/explain.js';
export { Follow, type FixContext, type FollowReach, type OnFixOptions } from './receiver/follow.js';
export type { FollowEvent, FollowFailure, FollowOutcome, FollowStatus } from './receiver/follow-events.js';
export { keepAcrossReloads } from './receiver/keep-across-reloads.js';
export { LIFE_EVENTS, type Life, type LifeEntry, type LifeEvent, type WhenHidden } from './receiver/life.js';
export type { Diagnostic, DiagnosticKind } from './receiver/diagnostics.js';
export type { FixOptions, FollowOptions, ReceiverOptions } from './receiver/options.js';
export { PROFILES, type Profile, type ProfileName } from './receiver/profiles.js';
export { Receiver, type LastFix } from './receiver/receiver.js';
export type { Deliveries } from './receiver/fix-intake.js';
export type { Demand, Source, SourceEvent, SourceSink, WatchRelease } from './receiver/source.js';
export type { ReceiverStatus } from './receiver/status.js';
export type { Tracking } from './receiver/tracking.js';
export { dutyCycling, type DutyCycling, type DutyCyclingOptions } from './receiver/duty-cycling.js';
export type { Usage } from './receiver/usage.js';

export { Recorder, type RecorderOptions, type RecorderStatus } from './recorder/recorder.js';
export { CrossingLog, readCrossings } from './recorder/crossing-log.js';
export { memoryStore } from './recorder/memory-store.js';
export { trailsByDay, type TrailDay } from './recorder/trails-by-day.js';
export {
  TrailInUseError,
  type TrailEntry,
  type TrailStore,
  type TrailWriter,
} from './recorder/trail-store.js';

export { browserSource, type BrowserSourceOptions } from './sources/browser.js';
export { nmeaSource, type NmeaSourceOptions } from './sources/nmea.js';
export { oneFix, type OneFixOptions } from './sources/one-fix.js';
export { bridgeSource, type BridgeOptions, type BridgeSource } from './sources/bridge.js';
export {
  functionPort,
  onShellPort,
  textPort,
  type BridgePort,
  type FunctionPort,
  type ShellPortOptions,
} from './sources/bridge-ports.js';

export type { Finding } from './preflight/finding.js';
export { preflightPage } from './preflight/in-page.js';
export type { Velocity } from './core/estimate/path-filter.js';
export type { Rest } from './core/estimate/stillness.js';
export type { Pause } from './core/estimate/sampling-plan.js';
export type { FenceIndex } from './core/fence/fence-search.js';
