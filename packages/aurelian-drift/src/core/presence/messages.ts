import type { Crossing } from '../fence/crossing.js';
import { timeText } from '../formats/time.js';
import type { Position } from '../geodesy/position.js';

/** Place of a member, as the member shares it. */
export interface SharedPlace extends Position {
  /** Time of the fix, milliseconds since 1970 UTC. */
  readonly time: number;
  /** 95 % radius in metres, including the rounding. */
  readonly accuracy?: number | undefined;
  /** Degrees clockwise from true north. */
  readonly course?: number | undefined;
  /** m/s */
  readonly speed?: number | undefined;
  /** Id of the announcement, which begins when sharing is switched on. */
  readonly session: string;
  /** Number of the place in its session, from 1. */
  readonly number: number;
  /** Places of the last minutes, oldest first, if the member shares them. */
  readonly trail?: readonly (Position & { readonly time: number })[] | undefined;
}

/** State of a member, as a message. */
export interface SharedState {
  /** `vanished` is published by the broker as the last will. */
  readonly state: 'here' | 'asleep' | 'vanished';
  readonly session: string;
  /** Number of the connection in its session, from 1: the state of the later connection is valid. */
  readonly link: number;
  /** Time of sending, milliseconds since 1970 UTC; absent in the last will. */
  readonly sent?: number | undefined;
  /** Maximum seconds between signs of life. */
  readonly keepAlive: number;
  /** Seconds for which the place is retained after the member vanished. */
  readonly retention: number;
  /** Display name. */
  readonly name?: string | undefined;
  /** When sharing ends by itself, milliseconds since 1970 UTC. */
  readonly until?: number | undefined;
  /** Rounding of the places in metres; absent when they are exact. */
  readonly rounding?: number | undefined;
  /** Since when the member has not moved, milliseconds since 1970 UTC. */
  readonly still?: number | undefined;
  /** The member is in an area that is not shared, so the place is an older one. */
  readonly veiled?: true | undefined;
}

/** Kinds of alarms about a plan. */
export const PLAN_ALARM_KINDS = ['off-plan', 'on-plan', 'overdue', 'finished'] as const;
/** Kind of an alarm about a plan. */
export type PlanAlarmKind = (typeof PLAN_ALARM_KINDS)[number];

/** Report of a guard: a crossing, missing signs of life, or the first sign of life after that. */
export interface Alarm {
  /** Made of member, fence, kind and time: always the same for the same event. */
  readonly id: string;
  readonly member: string;
  /**
   * A crossing; `missed` and `back`: no sign of life, and the first one after that; `off-plan` and `on-plan`: the
   * member left its plan, and is back on it; `overdue`: a named point of the plan was not reached in time; `finished`:
   * the end of the plan was reached.
   */
  readonly kind: Crossing['kind'] | 'missed' | 'back' | PlanAlarmKind;
  /**
   * Milliseconds since 1970 UTC: of the crossing, of the last sign of life before the silence, or the planned time of
   * what is overdue.
   */
  readonly time: number;
  readonly fence?: string | undefined;
  /** Name of the fence, of the plan, or of the named point that is overdue. */
  readonly name?: string | undefined;
  readonly lat?: number | undefined;
  readonly lon?: number | undefined;
  readonly certainty?: number | undefined;
  /** Seconds inside. */
  readonly duration?: number | undefined;
  /** After a gap: the earliest possible time. */
  readonly notBefore?: number | undefined;
}

/** A guard reports something, once. */
export interface AlarmEvent {
  readonly kind: 'alarm';
  readonly alarm: Alarm;
}

/** Maximum length of a message, in characters when read and in bytes when sent. */
export const MESSAGE_BYTES = 8192;
/** Maximum number of places of a shared trail: a message with them is well below `MESSAGE_BYTES`. */
export const TRAIL_PLACES = 100;

/** Writes a place as a GeoJSON Feature (RFC 7946): longitude and latitude to a centimetre, times as RFC 3339. */
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

/** Writes a state as a GeoJSON Feature without a geometry. */
export function writeStateMessage(
  member: string,
  { state, sent, until, still, ...rest }: SharedState,
): string {
  const times = { sent: text(sent), until: text(until), still: text(still) };
  return feature(null, { member, state, ...rest, ...times });
}

/** Writes an alarm as a GeoJSON Feature, with a point where the place is known. */
export function writeAlarmMessage({ lat, lon, time, notBefore, certainty, ...rest }: Alarm): string {
  const geometry =
    lat === undefined || lon === undefined
      ? null
      : { type: 'Point', coordinates: [degrees(lon), degrees(lat)] };
  const certain = certainty === undefined ? undefined : Math.round(certainty * 1e6) / 1e6;
  return feature(geometry, { ...rest, time: timeText(time), certainty: certain, notBefore: text(notBefore) });
}

/** Id of an announcement: its start in milliseconds since 1970 UTC, in base 36, and a random part. */
export const SESSION = /^[0-9a-z]{1,12}-[0-9a-z]{1,16}$/;

/** Start of a session: its id begins with it, in base 36. */
export function startOf(session: string): number {
  return parseInt(session.slice(0, session.indexOf('-')), 36);
}

function feature(geometry: object | null, properties: object): string {
  return JSON.stringify({ type: 'Feature', geometry, properties });
}

/** Rounds to a centimetre. */
function degrees(value: number): number {
  return Math.round(value * 1e7) / 1e7;
}

function tenths(value: number | undefined): number | undefined {
  return value === undefined ? undefined : Math.round(value * 10) / 10;
}

function text(time: number | undefined): string | undefined {
  return time === undefined ? undefined : timeText(time);
}
