import {
  NoFixError,
  Receiver,
  Recorder,
  ahead,
  browserSource,
  planFrom,
  tracksFrom,
  lengthText,
  systemClock,
  type Clock,
  type Line,
  type Source,
} from 'aurelian-drift';
import 'aurelian-drift/elements';
import { load } from '../shared/island.js';
import { behaviourAsked, isPretend, makePretend, type Pretend } from '../shared/pretend.js';
import { showPanel } from '../shared/pretend-panel.js';
import { button, element, write } from '../shared/page.js';
import { placeService } from '../shared/places.js';
import { countTrails, tellRoom, workOffline } from './offline-desk.js';
import { SightingsDesk } from './sightings-desk.js';
import { TrailsDesk } from './trails-desk.js';
import { store, walk } from './walk.js';

const PURPOSE =
  'Shows you on the round, keeps your trail, and notes the sections you walk through. All of it ' +
  'stays on this device, unless you share where you are.';
/** How many times faster than real time the pretend walk runs at first: an hour's round in three minutes. */
const TEMPO = 20;
const settings = new URLSearchParams(location.search);
const card = document.querySelector('aurelian-consent') as HTMLElementTagNameMap['aurelian-consent'];

/** An interrupted trail that can be continued. */
let broken: string | undefined;

/** The pretend device of the page, once it is asked for. */
let pretend: Promise<Pretend> | undefined;
let walked: { readonly receiver: Receiver; readonly clock: Clock } | undefined;

write('purpose', PURPOSE);
workOffline();
void offerBroken();
const trails = new TrailsDesk({ store, walking: () => walked !== undefined, onDeleted: countTrails });
void trails.show().then(tellRoom);
new SightingsDesk({
  places: placeService(),
  latest: () => walked?.receiver.lastFix()?.fix,
  now: () => (walked?.clock ?? systemClock).now(),
});
button('start').addEventListener('click', () => {
  if (pretend === undefined) void begin(browserSource(), systemClock);
  else void beginPretend();
});
button('use-pretend').addEventListener('click', () => void beginPretend());
if (isPretend()) pretend = makeWalker();

/** After a crash or a kill the trail still exists: the user continues it, or finishes it as it is. */
async function offerBroken(): Promise<void> {
  const [found] = (await store.list()).filter(({ finished, fixes }) => !finished && fixes > 0);
  if (found === undefined) return;
  const { id, fixes, distance, end = 0 } = found;
  const when = new Date(end).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
  write('broken-text', `A round broke off on ${when}: ${fixes} fixes, ${lengthText(distance)}.`);
  element('broken').hidden = false;
  button('go-on').addEventListener('click', () => {
    broken = id;
    write('broken-text', 'The next start goes on with it.');
    for (const name of ['go-on', 'leave-it']) button(name).hidden = true;
  });
  button('leave-it').addEventListener('click', () => {
    void Recorder.reopen(id, store)
      .then((recorder) => recorder.finish())
      .then(() => (element('broken').hidden = true))
      .catch((error: unknown) =>
        write('broken-text', error instanceof Error ? error.message : String(error)),
      );
  });
}

/** A pretend device that walks the Dune Round, with its panel. */
async function makeWalker(): Promise<Pretend> {
  const { lines } = tracksFrom(await load('rounds'));
  const round = lines.find((line) => line.name === 'Dune Round');
  if (round === undefined) throw new Error('the island has lost its Dune Round');
  const route = settings.has('detour') ? withDetour(round) : round;
  const made = makePretend(behaviourAsked(), { route, seed: 7, warmUp: 2 }, TEMPO);
  showPanel({
    pretend: made,
    text: 'A pretend device walks the Dune Round. This is not where you are.',
  });
  return made;
}

async function beginPretend(): Promise<void> {
  const { device, clock, accuracy } = await (pretend ??= makeWalker());
  await begin(device, clock, Math.max(TEMPO, clock.tempo), accuracy, 'Dune Round');
}

/** The route with a detour: aside from it after 300 m, along it for 250 m, and back. */
function withDetour(route: Line): Line {
  const { line } = planFrom(route);
  const aside = (along: number) => {
    const { course, ...at } = line.placeAt(along);
    return ahead(at, course + 90, 70);
  };
  const off = Array.from({ length: 11 }, (_, i) => aside(300 + 25 * i));
  return { parts: [[...line.part(0, 300), ...off, ...line.part(550, line.length)]] };
}

/** From the press to the first fix and on; a failure shows what helps, and the user can choose again. */
async function begin(
  source: Source,
  clock: Clock,
  tempo = 1,
  accuracy?: number,
  round?: string,
): Promise<void> {
  for (const id of ['start', 'use-pretend']) button(id).disabled = true;
  const receiver = new Receiver({ source, clock, purpose: PURPOSE, strict: true, explain: card.explain });
  card.receiver = receiver;
  const unwatch = receiver.$status.subscribe(({ state }) => {
    write(
      'waiting',
      state === 'asking'
        ? 'Waiting for your answer…'
        : state === 'waiting'
          ? 'Looking for your position…'
          : '',
    );
  });
  try {
    // Patience is in real time for the user, however fast the pretend clock runs.
    const first = await receiver.fix({ patience: 30 * tempo, ...(accuracy !== undefined && { accuracy }) });
    walked = { receiver, clock };
    await walk({
      receiver,
      source,
      clock,
      first,
      card,
      tempo,
      broken,
      round,
      onFinished: () => void trails.show().then(countTrails),
    });
  } catch (error) {
    if (!(error instanceof NoFixError)) throw error;
    for (const id of ['start', 'use-pretend']) button(id).disabled = false;
  } finally {
    unwatch();
    write('waiting', '');
  }
}
