import type { Fix } from '../fix/fix.js';
import { PlanWatch } from '../plan/plan-watch.js';
import type { Plan } from '../plan/plan.js';
import type { PlanEvent } from '../plan/progress.js';
import type { PlanWatchState } from '../plan/plan-state.js';
import type { Alarm, PlanAlarmKind } from './messages.js';

/** State of the guard of a plan, as data to store. */
export interface PlanGuardMemory {
  readonly watch: PlanWatchState;
  /** Indices of the stations that were reported as overdue. */
  readonly overdue: readonly number[];
}

/** What of an alarm a plan knows: the member and the id are added by the guard of the member. */
export type PlanReport = Pick<Alarm, 'kind' | 'time' | 'name' | 'lat' | 'lon' | 'certainty'> & {
  readonly kind: PlanAlarmKind;
};

/** Compares the places of one member with a plan: off it, back on it, overdue at a named point, finished. */
export class PlanGuard {
  readonly #watch: PlanWatch;
  readonly #grace: number;
  #overdue = new Set<number>();

  /** @param grace seconds after the planned time at which a named point that was not reached is reported. */
  constructor(plan: Plan, grace: number) {
    this.#watch = new PlanWatch(plan);
    this.#grace = grace;
  }

  get memory(): PlanGuardMemory {
    return { watch: this.#watch.state, overdue: [...this.#overdue] };
  }

  /** @throws {InputError} for a state that is damaged, or of another plan; nothing has changed then. */
  restore({ watch, overdue }: PlanGuardMemory): void {
    this.#watch.restore(watch);
    this.#overdue = new Set(overdue);
  }

  take(fix: Fix): PlanReport[] {
    return this.#watch.take(fix).flatMap((event) => this.#report(event));
  }

  breakSegment(): void {
    this.#watch.breakSegment();
  }

  /** Named points that should have been reached by now, each once. */
  checkTimes(now: number): PlanReport[] {
    if (this.#watch.finished) return [];
    const { stations } = this.#watch.plan;
    return this.#watch.waiting.flatMap((station): PlanReport[] => {
      const { name, time, lat, lon } = station;
      const index = stations.indexOf(station);
      if (time === undefined || now < time + this.#grace * 1000 || this.#overdue.has(index)) return [];
      this.#overdue.add(index);
      return [{ kind: 'overdue', time, name, lat, lon }];
    });
  }

  #report(event: PlanEvent): PlanReport[] {
    const { name } = this.#watch.plan;
    const labels = name === undefined ? {} : { name };
    switch (event.kind) {
      case 'left':
      case 'back': {
        const { time, lat, lon, certainty } = event;
        return [
          { kind: event.kind === 'left' ? 'off-plan' : 'on-plan', time, ...labels, lat, lon, certainty },
        ];
      }
      case 'finished':
        return [{ kind: 'finished', time: event.time, ...labels }];
      default:
        return [];
    }
  }
}
