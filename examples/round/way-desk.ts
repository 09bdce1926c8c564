import { durationText, lengthText, type Clock, type Fence, type Follow, type Position } from 'aurelian-drift';
import type { MapSheet } from 'aurelian-drift/map';
import {
  WayFinder,
  WayWatch,
  networkFrom,
  networkWays,
  noWayText,
  stepText,
  type TravelKind,
  type Way,
  type WayReading,
  type WayService,
} from 'aurelian-drift/ways';
import { load, onceMade } from '../shared/island.js';
import { button, element, piece, write } from '../shared/page.js';

const KINDS: readonly TravelKind[] = ['foot', 'cycle', 'drive'];

/** The lanes of the island, made when the first way is asked for. */
const network = onceMade(async () => networkWays(new WayFinder(networkFrom(await load('lanes')).network)));
const island: WayService = { ways: async (request) => (await network()).ways(request) };

export interface WayDeskParts {
  readonly map: MapSheet;
  readonly follow: Follow;
  readonly clock: Clock;
  /** Areas that no way may enter. */
  readonly closed: readonly Fence[];
}

/** The part of the field book about the way to a place: by kind of travel, with its steps, kept up while following. */
export class WayDesk {
  readonly #parts: WayDeskParts;
  #to: Position | undefined;
  #watch: WayWatch | undefined;

  constructor(parts: WayDeskParts) {
    this.#parts = parts;
    for (const kind of KINDS) button(`way-${kind}`).addEventListener('click', () => this.#lead(kind));
    button('way-off').addEventListener('click', () => {
      this.#end();
      element('way-part').hidden = true;
    });
  }

  /** Offers the way to a place. */
  offer(to: Position, name: string): void {
    this.#end();
    this.#to = { lat: to.lat, lon: to.lon };
    write('way-to', `To ${name}`);
    element('way-part').hidden = false;
  }

  /** Leads to a place on foot at once. */
  lead(to: Position, name: string): void {
    this.offer(to, name);
    this.#lead('foot');
    element('way-part').scrollIntoView({ block: 'nearest' });
  }

  #lead(by: TravelKind): void {
    const { follow, clock, closed } = this.#parts;
    if (this.#to === undefined) return;
    this.#end();
    for (const kind of KINDS) button(`way-${kind}`).ariaPressed = String(kind === by);
    const watch = new WayWatch({ ways: island, to: this.#to, request: { by, closed }, clock });
    this.#watch = watch;
    watch.$reading.subscribe((reading) => this.#write(reading));
    watch.follow(follow);
    const fix = follow.latest;
    if (fix !== undefined) watch.take(fix);
  }

  #end(): void {
    this.#watch?.close();
    this.#watch = undefined;
    this.#parts.map.layers.remove('way');
    for (const kind of KINDS) button(`way-${kind}`).ariaPressed = 'false';
    write('way-now', '');
    element('way-steps').replaceChildren();
  }

  #write({ state, ways: [way], noWay, error }: WayReading): void {
    const { map } = this.#parts;
    if (way === undefined || state === 'no-way') map.layers.remove('way');
    else map.layers.put('way', { kind: 'line', line: way.line, done: way.line });
    write(
      'way-now',
      noWay !== undefined
        ? noWayText(noWay)
        : (error?.userText ?? (way === undefined ? 'Looking for the way…' : wayText(way))),
    );
    element('way-steps').replaceChildren(...(way?.steps ?? []).map((step) => piece('li', stepText(step))));
  }
}

/** Length and time on the lanes, and what is left to walk from them. */
function wayText({ metres, seconds, walk: [, rest] }: Way): string {
  const text = `${lengthText(metres)}, about ${durationText(60 * Math.ceil(seconds / 60))}`;
  return rest < 10 ? text : `${text}; then ${lengthText(rest)} from the lane`;
}
