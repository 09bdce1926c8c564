/*
 * Hooks for React 18 and later. What a hook makes belongs to the component: it ends when the component goes, is there
 * again when it comes back, and is not made on a server. Importing this module also types the elements in JSX.
 */

import { useEffect, useMemo, useRef, useState, useSyncExternalStore, type RefCallback } from 'react';
import type { Fix } from '../core/fix/fix.js';
import type { LiveValue } from '../live/live-value.js';
import type { MapSheet } from '../map/map-sheet.js';
import { keepScreenOn } from '../page/keep-screen-on.js';
import { OnScreen, plainKey } from '../page/on-screen.js';
import { changeMap, screenMap, type ScreenMapOptions } from '../page/screen-map.js';
import { screenReceiver, type UseReceiverOptions } from '../page/screen-receiver.js';
import { ScreenRecorder, type ScreenRecording, type ScreenTrail } from '../page/screen-recorder.js';
import { ageOf } from '../receiver/age-of.js';
import type { Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import type { FollowOptions } from '../receiver/options.js';
import type { Receiver } from '../receiver/receiver.js';

export type { ScreenMapOptions, ScreenRecording, ScreenTrail, UseReceiverOptions };
export type { GivenGround } from '../page/put-ground.js';
export type { ElementsInJsx, MarkupOf } from './jsx.js';

/**
 * The value of a live value, such as `receiver.$fix`: the component is drawn again when it changes. Right in server
 * rendering and hydration, where it is the value at the beginning.
 */
export function useLive<T>(live: LiveValue<T>): T;
/** As above; `undefined` where there is no live value yet. */
export function useLive<T>(live: LiveValue<T> | undefined): T | undefined;
/** The value of a live value: see the overloads. */
export function useLive<T>(live: LiveValue<T> | undefined): T | undefined {
  return useSyncExternalStore(live?.listen ?? never, live?.get ?? nothing, () => live?.initial);
}

/** The age of the latest fix in whole seconds, which grows by itself; `undefined` without a fix. */
export function useAge($fix: LiveValue<Fix | undefined> | undefined, clock?: Clock): number | undefined {
  return useLive(useMemo(() => $fix && ageOf($fix, clock), [$fix, clock]));
}

/**
 * A receiver that belongs to the component; `undefined` in the first drawing and on a server. For one that belongs to
 * the app, make a `Receiver` in a module instead.
 *
 * @param options those of its beginning; a function is called when it is made.
 */
export function useReceiver(options: UseReceiverOptions | (() => UseReceiverOptions)): Receiver | undefined {
  return useOnScreen(() => screenReceiver(options), close);
}

/**
 * Follows the position while the component is there; `undefined` without a receiver or without options, so
 * `useFollow(receiver, on ? {} : undefined)` starts and stops. When a text, number or switch among the options changes,
 * another follow begins and the device stays on; other values are those of its beginning.
 */
export function useFollow(
  receiver: Receiver | undefined,
  ...given: [options?: FollowOptions | undefined]
): Follow | undefined {
  // Left out, they are the defaults; `undefined` is no follow.
  const options = given.length === 0 ? {} : given[0];
  return useOnScreen(
    () => (options === undefined ? undefined : receiver?.follow(options)),
    (follow) => follow?.stop(),
    [receiver, options === undefined, plainKey(options)],
  );
}

/**
 * A recorder of a screen that comes and goes. What it has recorded stays in the store: the screen goes on with its
 * unfinished trail when it is opened again, also after the app was killed. While there is a follow, it records it.
 *
 * @param trail store and name of the trail; with another name another trail. Without it nothing is recorded.
 */
export function useRecorder(trail: ScreenTrail | undefined, follow: Follow | undefined): ScreenRecording {
  const held = useOnScreen(
    () => trail && new ScreenRecorder(trail),
    (each) => each?.close(),
    [trail?.store, trail?.name],
  );
  useEffect(() => held?.record(follow), [held, follow]);
  return useLive(held?.$recording) ?? NO_RECORDING;
}

/**
 * A map that belongs to the component, and the `ref` of the element that it fills, which needs a height in CSS.
 *
 * @param options those of `MapSheet`. `receiver`, `label`, `controls`, `decimals`, `gestures`, `keepView`, `theme`,
 *   `units` and `texts` may change; the others are those of its beginning.
 */
export function useMap(
  options: ScreenMapOptions = {},
): [ref: RefCallback<HTMLElement>, map: MapSheet | undefined] {
  const [container, setContainer] = useState<HTMLElement | null>(null);
  const map = useOnScreen(
    () => (container === null ? undefined : screenMap(container, options)),
    (each) => each?.close(),
    [container],
  );
  const before = useRef(options);
  useEffect(() => {
    if (map !== undefined) changeMap(map, before.current, options);
    before.current = options;
  });
  return [setContainer, map];
}

/** Keeps the screen on while the component is there and `on` is true. */
export function useScreenOn(on = true): void {
  useEffect(() => (on ? keepScreenOn() : undefined), [on]);
}

function useOnScreen<T>(make: () => T, end: (value: T) => void, key: readonly unknown[] = []): T | undefined {
  const [value, setValue] = useState<T>();
  const latest = useRef(make);
  const held = useRef<OnScreen<T>>(undefined);
  useEffect(() => {
    latest.current = make;
    held.current ??= new OnScreen(
      () => latest.current(),
      end,
      (now) => setValue(() => now),
    );
    held.current.appear(key);
  });
  useEffect(() => () => held.current?.go(), []);
  return value;
}

const NO_RECORDING: ScreenRecording = Object.freeze({});
const never = () => () => {};
const nothing = () => undefined;
const close = (receiver: Receiver) => receiver.close();
