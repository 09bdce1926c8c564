import { TextOutput, type Output } from './output.js';
import { deliverTracks, type TrackContent } from './track-document.js';
import type { Trail } from '../trail/trail.js';
import type { PiecePlace, TrackSink } from './track-sink.js';

/** A writer of one format: it takes content in any order, and writes it in the order of the format. */
export interface TrackWriter extends TrackSink {
  /** Writes the rest. */
  end(): void;
  /** Content that the format cannot hold, as counted items: `2 waypoints`. */
  readonly leftOut: readonly string[];
}

/** Writes content that is in memory. */
export function textOf(make: (output: Output) => TrackWriter, content: TrackContent): string {
  const output = new TextOutput();
  const writer = make(output);
  deliverTracks(content, writer);
  writer.end();
  return output.text;
}

/** Common part of writers whose format holds trails only. */
export abstract class TrailsOnlyWriter implements TrackWriter {
  protected readonly left = new LeftOut();

  get leftOut(): readonly string[] {
    return this.left.texts;
  }

  abstract trail(piece: Trail, place: PiecePlace): void;
  abstract end(): void;

  line(): void {
    this.left.add('line');
  }

  route(): void {
    this.left.add('line');
  }

  waypoint(): void {
    this.left.add('waypoint');
  }

  note(): void {
    // What was passed over is told to the user, not written.
  }

  title(): void {
    // There is no place for the name of the whole, and it is not missed.
  }
}

/** Counts content that a format cannot hold. */
class LeftOut {
  readonly #counts = new Map<string, { count: number; many: string }>();

  add(one: string, many = `${one}s`): void {
    this.#counts.set(one, { count: (this.#counts.get(one)?.count ?? 0) + 1, many });
  }

  get texts(): string[] {
    return Array.from(this.#counts, ([one, { count, many }]) => `${count} ${count === 1 ? one : many}`);
  }
}
