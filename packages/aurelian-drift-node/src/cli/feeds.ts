import { connect } from 'node:net';
import {
  detectFormat,
  InputError,
  nmeaSource,
  systemClock,
  type Clock,
  type Note,
  type Source,
  type Trail,
} from 'aurelian-drift';
import { replaySource, scaledClock, SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';
import { TrackGatherer } from 'aurelian-drift/internal';
import { streamTracks } from '../files/track-file.js';
import { noTrail, readRoute, readTrails } from './files.js';
import { sourceName } from '../files/text-file.js';
import { Misuse } from './misuse.js';

/** Input of a follow. */
export interface Feed {
  readonly source: Source;
  readonly clock: Clock;
  readonly label: string;
}

/**
 * The feed of an input: `demo`, `demo:NAME`, `tcp://HOST:PORT`, `-`, or a file. Files are played at the highest tempo
 * by default.
 */
export async function feedOf(
  input: string,
  tempo: number | undefined,
  onNote: (note: Note) => void,
): Promise<Feed> {
  if (/^demo(:|$)/.test(input)) return demoFeed(input, tempo ?? 1);
  const address = /^tcp:\/\/(.*)$/.exec(input)?.[1];
  if (address !== undefined) return tcpFeed(input, address, onNote);
  if (input === '-') return pipeFeed(tempo ?? Infinity, onNote);
  return trailFeed(await readTrails(input), input, tempo ?? Infinity);
}

function tcpFeed(input: string, address: string, onNote: (note: Note) => void): Feed {
  const [, host = '', port = ''] = /^\[?([^\]]+?)\]?:(\d{1,5})$/.exec(address) ?? [];
  if (host === '' || !(Number(port) >= 1 && Number(port) <= 65_535))
    throw new Misuse(`${input}: a stream is written like tcp://127.0.0.1:10110`);
  return {
    source: sentences(
      () => connect({ host, port: Number(port) }) as AsyncIterable<Uint8Array>,
      input,
      onNote,
    ),
    clock: systemClock,
    label: 'Followed receiver',
  };
}

function sentences(
  open: () => AsyncIterable<Uint8Array>,
  name: string,
  onNote: (note: Note) => void,
): Source {
  const source = nmeaSource(open, { name });
  source.onEvent?.((event) => event.kind === 'note' && onNote(event));
  return source;
}

/** Standard input: NMEA sentences are followed as they arrive, other formats are read as a whole and played. */
async function pipeFeed(tempo: number, onNote: (note: Note) => void): Promise<Feed> {
  const chunks = (process.stdin as AsyncIterable<Uint8Array>)[Symbol.asyncIterator]();
  const first = await chunks.next();
  const all = async function* (): AsyncGenerator<Uint8Array> {
    if (first.done !== true) yield first.value;
    for (;;) {
      const next = await chunks.next();
      if (next.done === true) return;
      yield next.value;
    }
  };
  const start = first.done === true ? '' : Buffer.from(first.value).toString('latin1');
  if (detectFormat(start) === 'nmea')
    return {
      source: sentences(all, 'standard input', onNote),
      clock: systemClock,
      label: 'Followed receiver',
    };
  const gatherer = new TrackGatherer();
  await streamTracks(all(), 'standard input', gatherer);
  for (const note of gatherer.document.notes) onNote(note);
  if (gatherer.document.trails.length === 0) throw noTrail('-', gatherer.document);
  return trailFeed(gatherer.document.trails, '-', tempo);
}

function trailFeed(trails: readonly Trail[], path: string, tempo: number): Feed {
  if (trails.length > 1) {
    const names = trails.map((trail) => trail.name ?? 'unnamed').join(', ');
    throw new InputError('bad-value', `it has ${trails.length} trails (${names}); a follow takes one`, {
      source: sourceName(path),
    });
  }
  const trail = trails[0] as Trail;
  const clock = clockAt(tempo, trail.number(0, 'time'));
  return { source: replaySource(trail, clock), clock, label: trail.name ?? 'Replayed trail' };
}

async function demoFeed(input: string, tempo: number): Promise<Feed> {
  const route = await readRoute(input);
  const clock = clockAt(tempo, tempo === 1 ? Date.now() : Date.UTC(2026, 4, 14, 8));
  const source = new SimulatedDevice({ route, clock, permission: 'granted', afterwards: 'end' });
  return { source, clock, label: route.name ?? 'Pretend walk' };
}

function clockAt(tempo: number, start: number): Clock {
  return tempo === Infinity ? new VirtualClock(start) : scaledClock(tempo, start);
}
