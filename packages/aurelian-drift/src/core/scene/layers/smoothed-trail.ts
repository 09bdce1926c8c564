import { SmoothPath } from '../../estimate/smooth-path.js';
import type { Bounds } from '../../geodesy/bounds.js';
import type { Trail } from '../../trail/trail.js';
import type { Camera } from '../camera.js';
import type { Change, ReadyLayer } from '../layer-kind.js';
import { regionAround, type Region } from '../region.js';
import type { Layer } from '../scene.js';
import type { Words } from '../words.js';
import { TrailOnSheet, type TrailPaint } from './trail.js';

/** A trail drawn along its smoothed path, over a thin line from fix to fix if both are wanted. It may grow. */
export class SmoothedOnSheet implements ReadyLayer {
  readonly #path: SmoothPath;
  readonly #smooth: TrailOnSheet;
  readonly #raw: TrailOnSheet | undefined;

  constructor(trail: Trail, paint: TrailPaint, before: SmoothedOnSheet | undefined) {
    const same = before !== undefined && before.#path.trail === trail ? before : undefined;
    this.#path = same === undefined ? new SmoothPath(trail) : same.#path;
    this.#path.grow();
    const { crumbs: _, ...plain } = paint;
    this.#smooth = new TrailOnSheet(this.#path.settled, paint, same && same.#smooth);
    this.#raw = paint.path === 'both' ? new TrailOnSheet(trail, plain, same && same.#raw, true) : undefined;
  }

  under(camera: Camera, region: Region): Layer[] {
    return [...(this.#raw?.under(camera, region) ?? []), ...this.#smooth.under(camera, region)];
  }

  fresh(camera: Camera): Layer[] {
    return [
      ...(this.#raw?.fresh(camera) ?? []),
      ...this.#smooth.fresh(camera),
      { id: 'provisional', steps: this.#smooth.provisional(this.#path.tail, camera) },
    ];
  }

  describe(): Words[] {
    return this.#smooth.describe();
  }

  bounds(): Bounds | undefined {
    return this.#path.trail.bounds();
  }

  grow(): Change | undefined {
    this.#path.grow();
    const changes = [this.#raw?.grow(), this.#smooth.grow()].filter((change) => change !== undefined);
    if (changes.length === 0 || changes.includes('all')) return changes[0] === undefined ? undefined : 'all';
    return (camera) =>
      changes.reduce<Region | undefined>((all, change) => {
        const region = typeof change === 'function' ? change(camera) : undefined;
        return region === undefined ? all : regionAround(all, region);
      }, undefined);
  }

  begin(camera: Camera): void {
    this.#raw?.begin(camera);
    this.#smooth.begin(camera);
  }

  drawn(): void {
    this.#raw?.drawn();
    this.#smooth.drawn();
  }
}
