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
import { scaledClock } from 'aurelian-drift/testing';
import { load } from '../shared/island.js';
import { BEHAVIOURS, pretendBanner, pretendDevice, type Behaviour } from '../shared/pretend.js';
import { button, element, write } from '../shared/page.js';
import { store, walk } from './walk.js';

const PURPOSE =
  'Shows you on the round, keeps your trail, and notes the sections you walk through. All of it ' +
  'stays on this device, unless you share where you are.';
/**
 * How many times faster than real time the pretend walk runs: an hour's round in three minutes, or the value of
 * ?tempo=.
 */
const settings = new URLSearchParams(location.search);
const TEMPO = Number(settings.get('tempo') ?? 20);
const card = document.querySelector('aurelian-consent') as HTMLElementTagNameMap['aurelian-consent'];

/** An interrupted trail that can be continued. */
let broken: string | undefined;

write('purpose', PURPOSE);
void offerBroken();
button('start').addEventListener('click', () => void begin(browserSource(), systemClock));
button('use-pretend').addEventListener('click', () => void beginPretend('well'));

const chosen = settings.get('pretend');
if (chosen !== null && Object.hasOwn(BEHAVIOURS, chosen)) void beginPretend(chosen as Behaviour);

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

async function beginPretend(behaviour: Behaviour): Promise<void> {
  const { lines } = tracksFrom(await load('rounds'));
  const route = lines.find((line) => line.name === 'Dune Round');
  if (route === undefined) throw new Error('the island has lost its Dune Round');
  const clock = scaledClock(TEMPO, Date.now());
  const times = TEMPO === 1 ? '' : ` ${TEMPO} times as fast as a walk`;
  pretendBanner(
    element('pretend'),
    `It walks the Dune Round${times}. This is not where you are.`,
    behaviour,
    (next) => {
      settings.set('pretend', next);
      location.search = settings.toString(); // a second press does not start a second walk
    },
  );
  const walked = settings.has('detour') ? withDetour(route) : route;
  const device = pretendDevice(behaviour, clock, { route: walked, seed: 7, warmUp: 2 });
  await begin(device, clock, TEMPO, BEHAVIOURS[behaviour].accuracy, 'Dune Round');
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
    await walk({ receiver, source, clock, first, card, tempo, broken, round });
  } catch (error) {
    if (!(error instanceof NoFixError)) throw error;
    for (const id of ['start', 'use-pretend']) button(id).disabled = false;
  } finally {
    unwatch();
    write('waiting', '');
  }
}
