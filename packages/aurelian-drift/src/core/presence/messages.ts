import type { Crossing } from '../fence/crossing.js';
import { timeText } from '../formats/time.js';
import type { Position } from '../geodesy/position.js';

/** Where a member is, as they share it. */
export interface SharedPlace extends Position {
  /** Of the fix, milliseconds since 1970 UTC. */
  readonly time: number;
  /** Metres, 95 % radius, rounding included. */
  readonly accuracy?: number | undefined;
  /** Degrees clockwise from true north. */
  readonly course?: number | undefined;
  /** m/s */
  readonly speed?: number | undefined;
  /** Of this announcement: it begins when sharing is switched on. */
  readonly session: string;
  /** Counts the places of a session from 1. */
  readonly number: number;
  /** Where they were in the last minutes, oldest first, if they share that. */
  readonly trail?: readonly (Position & { readonly time: number })[] | undefined;
}

/** How a member is. */
export interface SharedState {
  /** `vanished` is said by the broker in the member’s stead. */
  readonly state: 'here' | 'asleep' | 'vanished';
  readonly session: string;
  /** Counts the connections of a session from 1: of two states, the one of the later connection holds. */
  readonly link: number;
  /** When it was sent, milliseconds since 1970 UTC; absent from what the broker says. */
  readonly sent?: number | undefined;
  /** Seconds within which there is a sign of life at the least. */
  readonly keepAlive: number;
  /** Seconds that the place stays after the member vanished. */
  readonly retention: number;
  /** How they are called. */
  readonly name?: string | undefined;
  /** When sharing ends by itself. */
  readonly until?: number | undefined;
  /** Metres that places are rounded to; absent when they are exact. */
  readonly rounding?: number | undefined;
  /** Since when they have not left their place. */
  readonly still?: number | undefined;
  /** They are in an area that they do not share, so their place is an older one. */
  readonly veiled?: true | undefined;
}

/** What a guard tells: a crossing, or that a member gave no sign of life for too long, or is back after that. */
export interface Alarm {
  /** Made of member, fence, kind and time: the same for the same thing, however often it is told. */
  readonly id: string;
  readonly member: string;
  readonly kind: Crossing['kind'] | 'missed' | 'back';
  /** Milliseconds since 1970 UTC: of the crossing, or of the last sign of life before the silence. */
  readonly time: number;
  readonly fence?: string | undefined;
  /** Of the fence. */
  readonly name?: string | undefined;
  readonly lat?: number | undefined;
  readonly lon?: number | undefined;
  readonly certainty?: number | undefined;
  /** Seconds. */
  readonly duration?: number | undefined;
  /** After a gap: when it can have been at the earliest. */
  readonly notBefore?: number | undefined;
}

/** A guard tells something, once. */
export interface AlarmEvent {
  readonly kind: 'alarm';
  readonly alarm: Alarm;
}

/** Letters of the longest message that is read, and bytes of the longest that is sent. */
export const MESSAGE_BYTES = 8192;
/** Places of a shared trail at most: with them a message is still well below `MESSAGE_BYTES`. */
export const TRAIL_PLACES = 100;

/** A place as a GeoJSON Feature (RFC 7946): longitude and latitude to a centimetre, times as RFC 3339. */
export function writePlaceMessage(member: string, place: SharedPlace): string {
  const { lat, lon, time, accuracy, course, speed, session, number, trail } = place;
  return feature(
    { type: 'Point', coordinates: [degrees(lon), degrees(lat)] },
    {
      member,
      session,
      number,
      time: timeText(time),
      accuracy: tenths(accuracy),
      course: tenths(course),
      speed: tenths(speed),
      trail: trail?.map((at) => [degrees(at.lon), degrees(at.lat), Math.round((time - at.time) / 100) / 10]),
    },
  );
}

/** A state as a GeoJSON Feature without a geometry. */
export function writeStateMessage(
  member: string,
  { state, sent, until, still, ...rest }: SharedState,
): string {
  const times = { sent: text(sent), until: text(until), still: text(still) };
  return feature(null, { member, state, ...rest, ...times });
}

/** An alarm as a GeoJSON Feature, a point where a place is known. */
export function writeAlarmMessage({ lat, lon, time, notBefore, certainty, ...rest }: Alarm): string {
  const geometry =
    lat === undefined || lon === undefined
      ? null
      : { type: 'Point', coordinates: [degrees(lon), degrees(lat)] };
  const certain = certainty === undefined ? undefined : Math.round(certainty * 1e6) / 1e6;
  return feature(geometry, { ...rest, time: timeText(time), certainty: certain, notBefore: text(notBefore) });
}

/** The id of an announcement: when it began, milliseconds since 1970 UTC in base 36, and chance. */
export const SESSION = /^[0-9a-z]{1,12}-[0-9a-z]{1,16}$/;

/** When a session began: its id begins with that time in base 36. */
export function startOf(session: string): number {
  return parseInt(session.slice(0, session.indexOf('-')), 36);
}

function feature(geometry: object | null, properties: object): string {
  return JSON.stringify({ type: 'Feature', geometry, properties });
}

/** To a centimetre. */
function degrees(value: number): number {
  return Math.round(value * 1e7) / 1e7;
}

function tenths(value: number | undefined): number | undefined {
  return value === undefined ? undefined : Math.round(value * 10) / 10;
}

function text(time: number | undefined): string | undefined {
  return time === undefined ? undefined : timeText(time);
}
