import {
  InputError,
  PlanFollow,
  lengthText,
  plansOf,
  readTracks,
  tracksFrom,
  type Follow,
  type Plan,
  type PlanEvent,
  type PlanWatchState,
  type Position,
  type Progress,
  type TrackDocument,
} from 'aurelian-drift';
import { planLayer, type MapSheet } from 'aurelian-drift/map';
import { load } from '../shared/island.js';
import { button, element, field, write } from '../shared/page.js';

/** Where the plan and its state are kept, for a round that broke off. */
const KEPT = 'round-plan';
/** Metres of progress after which the map shows it. */
const DRAWN_EVERY = 15;

export interface PlanDeskParts {
  readonly map: MapSheet;
  readonly follow: Follow;
  /** The round that is walked, if it is known. */
  readonly name?: string | undefined;
  /** Whether a round that broke off is continued. */
  readonly resumes: boolean;
  /** Shows the way to a place. */
  readonly onWayBack: (to: Position) => void;
}

/** The part of the field book about the plan: which one, what is done of it, and where it was left. */
export class PlanDesk {
  readonly #parts: PlanDeskParts;
  readonly #select = element('plan-choice') as HTMLSelectElement;
  #plans: Plan[] = [];
  #followed: PlanFollow | undefined;
  #drawn = -Infinity;

  constructor(parts: PlanDeskParts) {
    this.#parts = parts;
  }

  async show(): Promise<void> {
    const [{ lines }, { waypoints }] = (await Promise.all(
      (['rounds', 'places'] as const).map(async (name) => tracksFrom(await load(name))),
    )) as [TrackDocument, TrackDocument];
    this.#offer(plansOf({ lines, waypoints: waypoints.filter(({ name }) => name !== undefined) }));
    this.#select.addEventListener('change', () => {
      const { value } = this.#select;
      this.#take(value === '' ? undefined : this.#plans[Number(value)]);
    });
    field('plan-open').addEventListener('change', () => void this.#open());
    button('way-back').addEventListener('click', () => {
      const fix = this.#parts.follow.latest;
      if (fix !== undefined && this.#followed !== undefined)
        this.#parts.onWayBack(this.#followed.plan.line.nearest(fix));
    });
    const kept = this.#parts.resumes ? stateKept() : undefined;
    const found = this.#plans.findIndex(({ name }) => name === (kept?.name ?? this.#parts.name));
    this.#select.value = found < 0 ? '' : String(found);
    this.#take(this.#plans[found], kept?.state);
  }

  /** Lists the plans of a file behind those that are there. */
  #offer(plans: readonly Plan[]): void {
    this.#plans = [...this.#plans, ...plans];
    const none = new Option('none', '');
    this.#select.replaceChildren(
      none,
      ...this.#plans.map(({ name = 'unnamed' }, i) => new Option(name, String(i))),
    );
  }

  async #open(): Promise<void> {
    const [file] = field('plan-open').files ?? [];
    if (file === undefined) return;
    try {
      const plans = plansOf(readTracks(await file.text(), { source: file.name }));
      this.#offer(plans);
      this.#select.value = String(this.#plans.length - plans.length);
      this.#take(plans[0]);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      write('plan-trouble', error.message);
    }
  }

  /** Follows another plan, or none. */
  #take(plan: Plan | undefined, state?: PlanWatchState): void {
    const { map, follow } = this.#parts;
    this.#followed?.close();
    this.#followed = undefined;
    this.#drawn = -Infinity;
    map.layers.remove('plan');
    map.pins.clear('plan');
    write('plan-trouble', '');
    write('plan-now', '');
    element('plan-card').hidden = plan === undefined;
    button('way-back').hidden = true;
    if (plan === undefined) return;
    const followed = planFollowOf(plan, state);
    this.#followed = followed;
    map.layers.put('plan', planLayer(plan));
    plan.stations.forEach(({ name, lat, lon }, i) =>
      map.pins.add({ id: `plan-${i}`, group: 'plan', lat, lon, text: name }),
    );
    followed.follow(follow);
    followed.$progress.subscribe((progress) => this.#write(progress));
    followed.onEvent((event) => this.#tell(event));
    const first = follow.latest;
    if (first !== undefined) followed.take(first);
  }

  #write(progress: Progress | undefined): void {
    const { line } = (this.#followed as PlanFollow).plan;
    const { done = 0, left = line.length, share = 0, next, arrival, travelled = [] } = progress ?? {};
    (element('plan-share') as HTMLProgressElement).value = share;
    write('plan-done', `${lengthText(done)}, ${Math.floor(100 * share)} %`);
    write('plan-left', lengthText(left));
    write('plan-next', next === undefined ? 'the end' : `${next.name}, ${lengthText(next.distance)}`);
    write('plan-arrival', arrival === undefined ? '–' : timeText(arrival));
    if (Math.abs(done - this.#drawn) < DRAWN_EVERY) return;
    this.#drawn = done;
    this.#parts.map.layers.put('plan', planLayer((this.#followed as PlanFollow).plan, travelled));
    this.#keep();
  }

  /** Events are told once, politely; the notice stays while it holds. */
  #tell(event: PlanEvent): void {
    if (event.kind === 'left') {
      write('plan-now', `You left the plan at ${timeText(event.time)}, to its ${event.side}.`);
      if (field('plan-buzz').checked) buzz();
    } else if (event.kind === 'back') write('plan-now', 'You are back on the plan.');
    else if (event.kind === 'finished')
      write('plan-now', `The plan is finished: ${Math.round(100 * event.share)} % of it.`);
    else write('plan-now', `${event.kind === 'reached' ? 'Reached' : 'Passed by'} ${event.name}.`);
    element('plan-now').classList.toggle('off', event.kind === 'left');
    if (event.kind === 'left' || event.kind === 'back') button('way-back').hidden = event.kind === 'back';
    this.#keep();
  }

  #keep(): void {
    if (this.#followed === undefined) return;
    const { plan, state } = this.#followed;
    localStorage.setItem(KEPT, JSON.stringify({ name: plan.name, state }));
  }
}

/** Vibrates, where the device can. */
function buzz(): void {
  if ('vibrate' in navigator) navigator.vibrate([200, 100, 200]);
}

/** Goes on from a state that was kept, if it is one of this plan. */
function planFollowOf(plan: Plan, state: PlanWatchState | undefined): PlanFollow {
  try {
    return new PlanFollow(plan, { state });
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return new PlanFollow(plan);
  }
}

function stateKept(): { readonly name?: string; readonly state?: PlanWatchState } | undefined {
  try {
    return (JSON.parse(localStorage.getItem(KEPT) ?? 'null') ?? undefined) as ReturnType<typeof stateKept>;
  } catch {
    return undefined;
  }
}

function timeText(time: number): string {
  return new Date(time).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
}
