/*
 * A page with the same screen in React and in Vue, which comes and goes by every means of its framework. Each has a
 * pretend device of its own, so that what it leaves behind can be counted.
 */
import { memoryStore, type Follow, type Receiver } from 'aurelian-drift';
import 'aurelian-drift/elements';
import {
  useAge as useReactAge,
  useFollow,
  useLive,
  useMap,
  useReceiver,
  useRecorder,
} from 'aurelian-drift/react';
import { SimulatedDevice } from 'aurelian-drift/testing';
import * as inVue from 'aurelian-drift/vue';
import { Activity, StrictMode, useState } from 'react';
import { createRoot } from 'react-dom/client';
import { KeepAlive, createApp, defineComponent, h, ref, shallowRef } from 'vue';

const at = { lat: 44.2, lon: -33.6 };
const newDevice = () =>
  new SimulatedDevice({ at, permission: 'granted', reception: 'exact', warmUp: 0, every: 0.1 });
const element = (id: string) => document.getElementById(id)!;

/** What a framework has made, for the tests. */
class Seen {
  readonly device = newDevice();
  readonly store = memoryStore();
  readonly receivers = new Set<Receiver>();
  readonly follows = new Set<Follow>();
  drawn = 0;

  get open(): number {
    return [...this.receivers].filter(({ closed }) => !closed).length;
  }

  get running(): number {
    return [...this.follows].filter(({ running }) => running).length;
  }
}
const seen = { react: new Seen(), vue: new Seen() };

function ReactScreen({ every, off, taps }: { every: number; off: boolean; taps: string[] }) {
  const receiver = useReceiver(() => ({ source: seen.react.device, purpose: 'Test.' }));
  const follow = useFollow(receiver, off ? undefined : { every });
  const { recorder } = useRecorder({ store: seen.react.store, name: 'Screen' }, follow);
  const fix = useLive(receiver?.$fix);
  const age = useReactAge(receiver?.$fix);
  const summary = useLive(recorder?.$summary);
  const [map, sheet] = useMap({ receiver, ground: 'grid', label: `Every ${every} s`, centre: at, zoom: 15 });
  if (receiver !== undefined) seen.react.receivers.add(receiver);
  if (follow !== undefined) seen.react.follows.add(follow);
  seen.react.drawn++;
  return (
    <>
      <p className="place">{fix === undefined ? 'nowhere' : `${fix.lat.toFixed(4)}, ${age} s`}</p>
      <p className="fixes">{summary?.fixes ?? 0}</p>
      <p className="label">{sheet?.label}</p>
      <div ref={map} style={{ height: '200px' }} />
      <aurelian-map
        style={{ display: 'block', height: '200px' }}
        centre="44.2,-33.6"
        zoom="14"
        ground="grid"
        receiver={receiver}
        controls={false}
        onmaptap={({ detail }) => taps.push(detail.at.lat.toFixed(2))}
      />
    </>
  );
}

function ReactApp() {
  const [state, setState] = useState({ shown: true, hidden: false, every: 0, off: false });
  Object.assign(window, { setReact: (change: object) => setState((before) => ({ ...before, ...change })) });
  return (
    <Activity mode={state.hidden ? 'hidden' : 'visible'}>
      {state.shown && <ReactScreen every={state.every} off={state.off} taps={taps} />}
    </Activity>
  );
}

const VueScreen = defineComponent({
  props: { every: { type: Number, required: true }, off: Boolean },
  setup(props) {
    const receiver = inVue.useReceiver(() => ({ source: seen.vue.device, purpose: 'Test.' }));
    const follow = inVue.useFollow(receiver, () => (props.off ? undefined : { every: props.every }));
    const recording = inVue.useRecorder({ store: seen.vue.store, name: 'Screen' }, follow);
    const fix = inVue.useLive(() => receiver.value?.$fix);
    const age = inVue.useAge(() => receiver.value?.$fix);
    const summary = inVue.useLive(() => recording.value.recorder?.$summary);
    const container = ref<HTMLElement>();
    const sheet = inVue.useMap(container, () => ({
      receiver: receiver.value,
      ground: 'grid',
      label: `Every ${props.every} s`,
      centre: at,
      zoom: 15,
    }));
    return () => {
      if (receiver.value !== undefined) seen.vue.receivers.add(receiver.value);
      if (follow.value !== undefined) seen.vue.follows.add(follow.value);
      seen.vue.drawn++;
      return [
        h(
          'p',
          { class: 'place' },
          fix.value === undefined ? 'nowhere' : `${fix.value.lat.toFixed(4)}, ${age.value} s`,
        ),
        h('p', { class: 'fixes' }, summary.value?.fixes ?? 0),
        h('p', { class: 'label' }, sheet.value?.label),
        h('div', { ref: container, style: { height: '200px' } }),
        h('aurelian-map', {
          style: { display: 'block', height: '200px' },
          centre: '44.2,-33.6',
          zoom: '14',
          ground: 'grid',
          receiver: receiver.value,
          controls: false,
          onMaptap: ({ detail }: HTMLElementEventMap['maptap']) => taps.push(detail.at.lat.toFixed(2)),
        }),
      ];
    };
  },
});

const taps: string[] = [];
const root = createRoot(element('react'));
root.render(
  <StrictMode>
    <ReactApp />
  </StrictMode>,
);
const vueState = shallowRef({ shown: true, hidden: false, every: 0, off: false });
const vue = createApp(() => [
  h(KeepAlive, () =>
    vueState.value.shown && !vueState.value.hidden
      ? h(VueScreen, { every: vueState.value.every, off: vueState.value.off })
      : h('i'),
  ),
]);
vue.mount('#vue');
Object.assign(window, {
  seen,
  taps,
  setVue: (change: object) => (vueState.value = { ...vueState.value, ...change }),
  leave: () => {
    root.unmount();
    vue.unmount();
  },
});
