import { positionText } from '../core/fix/words.js';
import type { Position } from '../core/geodesy/position.js';
import type { AtOptions } from '../core/place/gazetteer.js';
import type { PlaceAnswer } from '../core/place/place.js';
import { serviceError, type ServiceError } from '../core/service/service-error.js';
import type { PlaceService } from './place-service.js';

/** The part of a map that is needed to look up a tapped address; a `MapSheet` has it. */
export interface TapBoard {
  onEvent(
    listener: (event: {
      readonly kind: string;
      readonly at?: Position;
      readonly pin?: string;
      readonly kite?: boolean;
    }) => void,
  ): () => void;
  readonly pins: {
    add(
      pin: Position & {
        readonly id: string;
        readonly text: string;
        readonly open: boolean;
        readonly group: string;
      },
    ): string;
    change(id: string, change: { readonly text: string }): void;
    remove(id: string): void;
  };
}

/** The tapped position with its result: the position at once, then the answers or the failure. */
export interface Tapped {
  readonly at: Position;
  readonly answers?: readonly PlaceAnswer[];
  readonly error?: ServiceError;
}

/** Id and group of the pin. */
const PIN = 'tapped';

/**
 * Shows a pin with the position where the map is tapped, and the address as soon as it arrives. If the look-up fails,
 * the position stays. The next tap moves the pin, and older answers are dropped. Returns the function that ends this.
 */
export function addressOnTap(
  map: TapBoard,
  places: PlaceService,
  options: AtOptions & { readonly onTapped?: (tapped: Tapped) => void } = {},
): () => void {
  const { onTapped = () => {}, ...question } = options;
  let cancel = new AbortController();
  const look = async (at: Position): Promise<void> => {
    cancel.abort();
    const own = (cancel = new AbortController());
    const numbers = positionText(at);
    map.pins.add({ id: PIN, group: PIN, ...at, text: numbers, open: true });
    onTapped({ at });
    try {
      const answers = await places.at(at, { ...question, signal: own.signal });
      if (own.signal.aborted) return;
      const [answer] = answers;
      if (answer !== undefined) map.pins.change(PIN, { text: answer.text });
      onTapped({ at, answers });
    } catch (cause) {
      if (own.signal.aborted) return;
      map.pins.change(PIN, { text: `${numbers} (no address found)` });
      onTapped({ at, error: serviceError(cause) });
    }
  };
  const unsubscribe = map.onEvent(({ kind, at, pin, kite }) => {
    if (kind === 'tap' && at !== undefined && pin === undefined && kite !== true) void look(at);
  });
  return () => {
    unsubscribe();
    cancel.abort();
    map.pins.remove(PIN);
  };
}
