import type { Fix } from '../../fix/fix.js';
import type { Trail } from '../../trail/trail.js';
import { fixedDecimals } from '../../fix/decimals.js';
import { FIX_COLUMNS, columnValue } from '../fix-columns.js';
import { sentenceText } from './nmea-sentence.js';
import type { Output } from '../output.js';
import type { TrackContent } from '../track-document.js';
import type { PiecePlace } from '../track-sink.js';
import { TrailsOnlyWriter, textOf } from '../track-writer.js';

/** Decimals of a minute: a fifth of a millimetre. */
const MINUTE_DECIMALS = 7;
const KNOT = 1852 / 3600;
const CARRIED = new Set(['speed', 'course']);

/**
 * Writes trails as NMEA 0183: an RMC and a GGA per fix, with time to the millisecond, position to a fifth of a
 * millimetre, speed, course, and the altitude when it is above the sea. A break is an RMC without a fix. NMEA cannot
 * hold names, accuracy, lines and waypoints.
 */
export function writeNmea(content: TrackContent): string {
  return textOf((output) => new NmeaWriter(output), content);
}

export class NmeaWriter extends TrailsOnlyWriter {
  readonly #output: Output;
  #any = false;

  constructor(output: Output) {
    super();
    this.#output = output;
  }

  trail(piece: Trail, { first, joined }: PiecePlace): void {
    if (first && piece.name !== undefined) this.left.add('name');
    piece.segments.forEach((segment, s) => {
      const fixes = [...piece.fixesOf(segment)];
      for (const key of piece.extraKeys) this.left.add(`column of ${key}`);
      const start = this.#any && !(s === 0 && joined) ? NO_FIX : '';
      this.#any = true;
      this.#output.write(start + fixes.map((fix) => this.#fixText(fix)).join(''));
    });
  }

  end(): void {
    // Every sentence is whole.
  }

  #fixText(fix: Fix): string {
    for (const column of FIX_COLUMNS) {
      const reported = column === 'origin' || column === 'altitudeDatum' || CARRIED.has(column);
      const high = column === 'altitude' && fix.altitudeDatum === 'sea';
      if (!reported && !high && columnValue(fix, column) !== undefined)
        this.left.add(...(WORDS[column] ?? ([column, `${column}s`] as const)));
    }
    const { clock, date } = timeFields(fix.time);
    const where = `${degreesText(fix.lat, 2, 'N', 'S')},${degreesText(fix.lon, 3, 'E', 'W')}`;
    const speed = fix.speed === undefined ? '' : fixedDecimals(fix.speed / KNOT, 6);
    const course = fix.course === undefined ? '' : fixedDecimals(fix.course, 6);
    const altitude =
      fix.altitude === undefined || fix.altitudeDatum !== 'sea' ? ',' : `${fixedDecimals(fix.altitude, 4)},M`;
    const [mode, quality] =
      fix.origin === 'simulated' ? ['S', 8] : fix.origin === 'manual' ? ['M', 7] : ['A', 1];
    return (
      sentenceText(`GNRMC,${clock},A,${where},${speed},${course},${date},,,${mode}`) +
      sentenceText(`GNGGA,${clock},${where},${quality},,,${altitude},,,,`)
    );
  }
}

/** Names of content that is left out, singular and plural. */
const WORDS: Readonly<Record<string, readonly [string, string]>> = {
  accuracy: ['accuracy', 'accuracies'],
  altitudeAccuracy: ['altitude accuracy', 'altitude accuracies'],
  marks: ['mark', 'marks'],
};

/** The receiver has no fix. */
const NO_FIX = sentenceText('GNRMC,,V,,,,,,,,,,N');

function timeFields(time: number): { clock: string; date: string } {
  const text = new Date(Math.round(time)).toISOString();
  return {
    clock: text.slice(11, 23).replaceAll(':', ''),
    date: text.slice(8, 10) + text.slice(5, 7) + text.slice(2, 4),
  };
}

function degreesText(degrees: number, width: number, positive: string, negative: string): string {
  const size = Math.abs(degrees);
  // Rounded as a whole, so that 59.99999999 minutes become the next degree.
  const minutes = Math.round(size * 60 * 10 ** MINUTE_DECIMALS);
  const whole = Math.floor(minutes / (60 * 10 ** MINUTE_DECIMALS));
  const rest = (minutes - whole * 60 * 10 ** MINUTE_DECIMALS) / 10 ** MINUTE_DECIMALS;
  const text = rest.toFixed(MINUTE_DECIMALS).padStart(MINUTE_DECIMALS + 3, '0');
  return `${String(whole).padStart(width, '0')}${text},${degrees < 0 ? negative : positive}`;
}
