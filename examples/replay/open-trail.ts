import { Trail, readTracks, routeFrom, tracksFrom, type TrackDocument } from 'aurelian-drift';
import { browserStore } from 'aurelian-drift/stores';
import { journey } from 'aurelian-drift/testing';
import { load } from '../shared/island.js';

/** A file of the visitor. @throws {InputError} that names what is wrong with it, and where. */
export async function fromFile(file: File): Promise<TrackDocument> {
  return readTracks(await file.text(), { source: file.name });
}

/** A round of the island, as a phone in a wood would have recorded it. */
export async function fromDemo(): Promise<TrackDocument> {
  const { lines, ...rest } = tracksFrom(await load('rounds'));
  const round = lines.find(({ name }) => name === 'Tarn Round');
  if (round === undefined) throw new Error('the island has lost its Tarn Round');
  const trail = new Trail({ name: 'Tarn Round' });
  const rests = { every: 700, for: 120 };
  for (const { fix } of journey(routeFrom(round), { reception: 'wood', seed: 11, rests }))
    if (fix !== undefined) trail.append(fix);
  return { ...rest, lines: [], trails: [trail] };
}

/** A trail that the page round has kept. */
export async function fromRound(id: string): Promise<TrackDocument> {
  const store = browserStore({ name: 'round' });
  const trail = await store.read(id);
  await store.close();
  return {
    trails: trail === undefined ? [] : [trail],
    lines: [],
    routes: [],
    waypoints: [],
    notes: [],
  };
}
