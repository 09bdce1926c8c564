/*
 * A page in which three frameworks, each with its usual means for such values, and plain code bind the same live value.
 */
import { Receiver, type Fix } from 'aurelian-drift';
import { SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';
import { StrictMode, createElement, useSyncExternalStore } from 'react';
import { createRoot } from 'react-dom/client';
import { derived } from 'svelte/store';
import { createApp, onUnmounted, shallowRef } from 'vue';

const clock = new VirtualClock();
const device = new SimulatedDevice({
  clock,
  at: { lat: 44.2, lon: -33.6 },
  permission: 'granted',
  reception: 'exact',
});
const receiver = new Receiver({ source: device, clock, purpose: 'Test.', warn() {} });
const text = (fix: Fix | undefined) => (fix === undefined ? 'nowhere' : fix.lat.toFixed(6));
const element = (id: string) => document.getElementById(id)!;

const Place = () => text(useSyncExternalStore(receiver.$fix.listen, receiver.$fix.get));
const react = createRoot(element('react'));
react.render(createElement(StrictMode, {}, createElement(Place)));
const vue = createApp({
  setup() {
    const fix = shallowRef<Fix>();
    onUnmounted(receiver.$fix.subscribe((now) => (fix.value = now)));
    return () => text(fix.value);
  },
});
vue.mount('#vue');
receiver.$fix.listen(() => {
  throw new Error('somebody else’s listener');
});
const svelte = derived(receiver.$fix, text).subscribe((now) => (element('svelte').textContent = now));
const plain = receiver.$fix.subscribe((fix) => (element('plain').textContent = text(fix)));
const leave = () => {
  react.unmount();
  vue.unmount();
  svelte();
  plain();
};
Object.assign(window, { clock, device, receiver, leave });
