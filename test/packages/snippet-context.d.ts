/* What the snippets of the papers assume, besides their own imports and the earlier ones of the same page. */
import type {
  CircleFence,
  Fence,
  Fix,
  Follow,
  Line,
  Plan,
  Receiver,
  Recorder,
  Trail,
  TrailStore,
  Waypoint,
} from 'aurelian-drift';
import type { Ground, MapSheet } from 'aurelian-drift/map';
import type { Gazetteer, PlaceService } from 'aurelian-drift/places';
import type { Network, WayFinder } from 'aurelian-drift/ways';
import type { Broker } from 'aurelian-drift/presence';

declare global {
  const receiver: Receiver;
  const source: ReturnType<typeof browserSource>;
  const fix: Fix;
  const follow: Follow;
  const recorder: Recorder;
  const store: TrailStore;
  const trail: Trail;
  const trails: Trail[];
  const routes: Line[];
  const waypoints: Waypoint[];
  const fences: Fence[];
  const yard: CircleFence;
  const map: MapSheet;
  const ground: Ground;
  const gazetteer: Gazetteer;
  const places: PlaceService;
  const broker: Broker;
  /** Parsed GeoJSON. */
  const geojson: unknown;
  const areas: unknown;
  const plan: Plan;
  const network: Network;
  const finder: WayFinder;
  const password: string;
  /** Content of a file. */
  const text: string;
  /** Milliseconds since 1970 UTC. */
  const morning: number;
  const hut: { lat: number; lon: number };
  const tower: { lat: number; lon: number };
  const route: { parts: { lat: number; lon: number }[][] };
  const container: HTMLElement;
  const button: HTMLButtonElement;
  const note: HTMLElement;
  const help: HTMLElement;
  const list: HTMLElement;
  /** Parts of a map that is not ours. */
  const marker: { move(at: readonly [number, number], turn: number): void };
  const ring: { move(at: readonly [number, number], radius: number): void };
  const otherMap: {
    on(event: string, listener: () => void): void;
    centre(at: readonly [number, number]): void;
    data(id: string, content: unknown): void;
    paint(id: string, ids: readonly string[]): void;
  };
  function show(fix: Fix): void;

  /** The elements of the page that contains a script. */
  interface ParentNode {
    querySelector<Name extends keyof HTMLElementTagNameMap>(name: Name): HTMLElementTagNameMap[Name];
  }
}
