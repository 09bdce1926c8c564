/*
 * Composables for Vue 3. What one makes belongs to the component: it ends when the component goes, also into a
 * `<KeepAlive>`, is there again when it comes back, and is not made on a server. Importing this module also types the
 * elements in templates.
 */

import {
  getCurrentInstance,
  markRaw,
  onActivated,
  onBeforeUnmount,
  onDeactivated,
  onMounted,
  onScopeDispose,
  shallowRef,
  toValue,
  watch,
  type MaybeRefOrGetter,
  type ShallowRef,
} from 'vue';
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
export type { ElementsInTemplates } from './templates.js';

/**
 * The value of a live value, such as `receiver.$fix`, as a ref. Right in server rendering and hydration, where it is
 * the value at the beginning. Use it in `setup`, or in an effect scope.
 */
export function useLive<T>(live: LiveValue<T>): Readonly<ShallowRef<T>>;
/** As above, for a ref or getter of a live value; `undefined` where there is none yet. */
export function useLive<T>(
  live: MaybeRefOrGetter<LiveValue<T> | undefined>,
): Readonly<ShallowRef<T | undefined>>;
/** The value of a live value: see the overloads. */
export function useLive<T>(
  live: MaybeRefOrGetter<LiveValue<T> | undefined>,
): Readonly<ShallowRef<T | undefined>> {
  const value = shallowRef<T | undefined>(toValue(live)?.initial);
  let end = () => {};
  const bind = (now: LiveValue<T> | undefined) => {
    end();
    end = () => {};
    if (now === undefined) value.value = undefined;
    else end = now.subscribe((next) => (value.value = next));
  };
  onceShown(() => watch(() => toValue(live), bind, { immediate: true, flush: 'sync' }));
  onScopeDispose(() => end());
  return value;
}

/** The age of the latest fix in whole seconds, which grows by itself; `undefined` without a fix. */
export function useAge(
  $fix: MaybeRefOrGetter<LiveValue<Fix | undefined> | undefined>,
  clock?: Clock,
): Readonly<ShallowRef<number | undefined>> {
  return useLive(() => {
    const live = toValue($fix);
    return live && ageOf(live, clock);
  });
}

/**
 * A receiver that belongs to the component; `undefined` until it is mounted, and on a server. For one that belongs to
 * the app, make a `Receiver` in a module instead.
 *
 * @param options those of its beginning; a function is called when it is made.
 */
export function useReceiver(
  options: UseReceiverOptions | (() => UseReceiverOptions),
): Readonly<ShallowRef<Receiver | undefined>> {
  return useOnScreen(
    () => screenReceiver(options),
    (receiver) => receiver.close(),
  );
}

/**
 * Follows the position while the component is shown; `undefined` without a receiver or without options, so
 * `useFollow(receiver, () => (on.value ? {} : undefined))` starts and stops. When a text, number or switch among the
 * options changes, another follow begins and the device stays on; other values are those of its beginning.
 */
export function useFollow(
  receiver: MaybeRefOrGetter<Receiver | undefined>,
  options: MaybeRefOrGetter<FollowOptions | undefined> = {},
): Readonly<ShallowRef<Follow | undefined>> {
  return useOnScreen(
    () => {
      const now = toValue(options);
      return now === undefined ? undefined : toValue(receiver)?.follow(now);
    },
    (follow) => follow?.stop(),
    () => [toValue(receiver), toValue(options) === undefined, plainKey(toValue(options))],
  );
}

/**
 * A recorder of a screen that comes and goes. What it has recorded stays in the store: the screen goes on with its
 * unfinished trail when it is opened again, also after the app was killed. While there is a follow, it records it.
 *
 * @param trail store and name of the trail; with another name another trail. Without it nothing is recorded.
 */
export function useRecorder(
  trail: MaybeRefOrGetter<ScreenTrail | undefined>,
  follow: MaybeRefOrGetter<Follow | undefined>,
): Readonly<ShallowRef<ScreenRecording>> {
  const held = useOnScreen(
    () => {
      const now = toValue(trail);
      return now && new ScreenRecorder(now);
    },
    (each) => each?.close(),
    () => [toValue(trail)?.store, toValue(trail)?.name],
  );
  watch([held, () => toValue(follow)], ([each, now]) => each?.record(now), { flush: 'sync' });
  const recording = useLive(() => held.value?.$recording);
  const shown = shallowRef<ScreenRecording>({});
  watch(recording, (now = {}) => (shown.value = now), { flush: 'sync' });
  return shown;
}

/**
 * A map that belongs to the component, in the element of a template ref, which needs a height in CSS.
 *
 * @param options those of `MapSheet`. `receiver`, `label`, `controls`, `decimals`, `gestures`, `keepView`, `theme`,
 *   `units` and `texts` may change; the others are those of its beginning.
 */
export function useMap(
  container: MaybeRefOrGetter<HTMLElement | null | undefined>,
  options: MaybeRefOrGetter<ScreenMapOptions> = {},
): Readonly<ShallowRef<MapSheet | undefined>> {
  const map = useOnScreen(
    () => {
      const element = toValue(container);
      return element ? screenMap(element, toValue(options)) : undefined;
    },
    (each) => each?.close(),
    () => [toValue(container)],
  );
  watch(
    () => ({ ...toValue(options) }),
    (now, before) => map.value && changeMap(map.value, before, now),
    { flush: 'sync' },
  );
  return map;
}

/** Keeps the screen on while the component is shown and `on` is true. */
export function useScreenOn(on: MaybeRefOrGetter<boolean> = true): void {
  useOnScreen(
    () => (toValue(on) ? keepScreenOn() : undefined),
    (release) => release?.(),
    () => [toValue(on)],
  );
}

function useOnScreen<T>(
  make: () => T,
  end: (value: T) => void,
  key: () => readonly unknown[] = () => [],
): Readonly<ShallowRef<T | undefined>> {
  const value = shallowRef<T>();
  const held = new OnScreen(make, end, (now) => {
    value.value = typeof now === 'object' && now !== null ? markRaw(now) : now;
  });
  let shown = false;
  const appear = () => {
    shown = true;
    held.appear(key());
  };
  const go = () => {
    shown = false;
    held.go();
  };
  onceShown(appear);
  if (getCurrentInstance() !== null) {
    onActivated(appear);
    onDeactivated(go);
    onBeforeUnmount(go);
  } else {
    onScopeDispose(go);
  }
  watch(key, (now) => shown && held.appear(now), { flush: 'sync' });
  return value;
}

/** In a component, when it is mounted, which no server does; elsewhere at once. */
function onceShown(action: () => unknown): void {
  if (getCurrentInstance() === null) action();
  else onMounted(() => void action());
}
