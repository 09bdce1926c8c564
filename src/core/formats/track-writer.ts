import { TextOutput, type Output } from './output.js';
import { tellTracks, type TrackContent } from './track-document.js';
import type { TrackSink } from './track-sink.js';

/** A writer of one format: it takes what a reader tells, in any order, and writes it as that format has it. */
export interface TrackWriter extends TrackSink {
  /** Writes what is still missing. */
  end(): void;
  /** What it had to leave out because the format has no place for it, as counted things: `2 waypoints`. */
  readonly leftOut: readonly string[];
}

/** The text that a writer makes of what is at hand. */
export function textOf(make: (output: Output) => TrackWriter, content: TrackContent): string {
  const output = new TextOutput();
  const writer = make(output);
  tellTracks(content, writer);
  writer.end();
  return output.text;
}

/** Counts what a format has no place for. */
export class LeftOut {
  readonly #counts = new Map<string, { count: number; many: string }>();

  add(one: string, many = `${one}s`): void {
    this.#counts.set(one, { count: (this.#counts.get(one)?.count ?? 0) + 1, many });
  }

  get texts(): string[] {
    return Array.from(this.#counts, ([one, { count, many }]) => `${count} ${count === 1 ? one : many}`);
  }
}
