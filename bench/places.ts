import { distance, type Position } from 'aurelian-drift';
import { Gazetteer, type Place } from 'aurelian-drift/places';
import { randomFrom } from 'aurelian-drift/testing';
import Flatbush from 'flatbush';
import { beside, bytesFor, type Row } from './measure.js';

const STREETS = 50_000;
const HOUSES = 20;
const LOCALITIES = 2500;
const ASKED = 20_000;

const SYLLABLES = (
  'ar bel cor dun esk fal gor hal ith jor kel lan mor nev orr pel quin ros sel tam ul vor wen yar ' +
  'zel bran crow drey fenn glan'
).split(' ');
const ENDS = ['ton', 'wick', 'ham', 'by', 'mouth', 'den', 'ley', 'ford', 'stead', 'combe'];
const WAYS = ['Lane', 'Street', 'Row', 'Road', 'Close', 'Way'];

/** A million made-up addresses in a made-up area of about 300 by 300 km. */
function* addresses(): Generator<Place> {
  const random = randomFrom(11);
  const pick = <Item>(items: readonly Item[]) => items[Math.floor(random.uniform() * items.length)] as Item;
  const word = () => {
    const made = pick(SYLLABLES) + pick(SYLLABLES) + pick(ENDS);
    return (made[0] as string).toUpperCase() + made.slice(1);
  };
  const localities = Array.from({ length: LOCALITIES }, (_, i) => ({
    locality: word(),
    region: `${['North', 'South', 'East', 'West'][i % 4] ?? ''} Reach`,
    postalCode: `${10_000 + i}`,
    lat: 44 + random.uniform() * 2.7,
    lon: -35 + random.uniform() * 3.8,
  }));
  for (let s = 0; s < STREETS; s++) {
    const { lat, lon, ...area } = localities[s % LOCALITIES] as (typeof localities)[0];
    const street = `${word()} ${pick(WAYS)}`;
    const from = { lat: lat + random.normal() * 0.012, lon: lon + random.normal() * 0.016 };
    const turn = random.uniform() * 2 * Math.PI;
    for (let h = 0; h < HOUSES; h++) {
      yield {
        kind: 'house',
        houseNumber: String(h + 1),
        street,
        ...area,
        lat: from.lat + h * 1.1e-4 * Math.sin(turn) + (h % 2) * 1.5e-4 * Math.cos(turn),
        lon: from.lon + h * 1.5e-4 * Math.cos(turn) - (h % 2) * 2e-4 * Math.sin(turn),
      };
    }
  }
}

/** Building, asking for the nearest, and finding as typed, in a gazetteer of a million addresses. */
export function placeRows(): Row[] {
  const places = [...addresses()];
  let gazetteer = new Gazetteer([]);
  let seconds = 0;
  const bytes = bytesFor(() => {
    const start = performance.now();
    gazetteer = new Gazetteer(places);
    seconds = (performance.now() - start) / 1000;
  });
  const started = performance.now();
  const tree = new Flatbush(places.length);
  for (const { lat, lon } of places) tree.add(lon, lat, lon, lat);
  tree.finish();
  const plainSeconds = (performance.now() - started) / 1000;
  return [
    {
      what: 'an index of 1 000 000 addresses, by place and by words',
      ours: `${seconds.toFixed(2)} s`,
      baseline: `flatbush, of the points alone ${plainSeconds.toFixed(2)} s`,
      ratio: `${(seconds / plainSeconds).toFixed(1)} ×`,
      goal: '≤ 3 s',
      met: seconds <= 3,
    },
    {
      what: 'its memory',
      ours: `${(bytes / 1e6).toFixed(0)} MB`,
      baseline: `flatbush, of the points alone ${(tree.data.byteLength / 1e6).toFixed(0)} MB`,
      ratio: `${(bytes / tree.data.byteLength).toFixed(1)} ×`,
      goal: '≤ 200 MB',
      met: bytes <= 200e6,
    },
    nearestRow(gazetteer, tree, places),
    findRow(gazetteer, places),
  ];
}

function nearestRow(gazetteer: Gazetteer, tree: Flatbush, places: readonly Place[]): Row {
  const random = randomFrom(12);
  const asked: Position[] = Array.from({ length: ASKED }, () => {
    const { lat, lon } = places[Math.floor(random.uniform() * places.length)] as Place;
    return { lat: lat + random.normal() * 1e-3, lon: lon + random.normal() * 1e-3 };
  });
  const options = { kinds: ['house'], max: 1 };
  const times = beside(
    () => asked.forEach((at) => gazetteer.near(at, options)),
    () => asked.forEach(({ lat, lon }) => tree.neighbors(lon, lat, 1)),
    7,
  );
  // The baseline that compares plain degrees finds another house, because a degree of longitude is shorter than one of
  // latitude.
  const other = asked.filter((at) => {
    const [plain = 0] = tree.neighbors(at.lon, at.lat, 1);
    const [ours] = gazetteer.near(at, options);
    const gap = distance(at, places[plain] as Place) - (ours?.distance ?? Infinity);
    if (gap < -0.001) throw new Error('flatbush found a nearer one');
    return gap > 0.001;
  });
  const rate = ASKED / times.ours;
  return {
    what: 'the nearest address, in words',
    ours: `${(rate / 1000).toFixed(0)} k/s`,
    baseline:
      `flatbush, the nearest in degrees ${(ASKED / times.baseline / 1000).toFixed(0)} k/s, another ` +
      `house in ${((100 * other.length) / ASKED).toFixed(0)} %`,
    ratio: `${(times.baseline / times.ours).toFixed(2)} ×`,
    goal: '≥ 100 k/s',
    met: rate >= 100_000,
  };
}

/** Every prefix of the queries as a user types them, some with a typing error. */
function findRow(gazetteer: Gazetteer, places: readonly Place[]): Row {
  const random = randomFrom(13);
  const typed: { text: string; near: Position }[] = [];
  for (let i = 0; i < 120; i++) {
    const { houseNumber, street, locality, lat, lon } = places[
      Math.floor(random.uniform() * places.length)
    ] as Place;
    let text = `${houseNumber ?? ''} ${street ?? ''} ${locality ?? ''}`;
    if (i % 3 === 0) {
      const at = 4 + Math.floor(random.uniform() * 5);
      text = text.slice(0, at) + text.slice(at + 1);
    }
    const near = { lat: lat + random.normal() * 0.1, lon: lon + random.normal() * 0.1 };
    for (let end = 1; end <= text.length; end++) typed.push({ text: text.slice(0, end), near });
  }
  const times = new Float64Array(typed.length);
  for (let round = 0; round < 2; round++) {
    typed.forEach(({ text, near }, i) => {
      const start = performance.now();
      gazetteer.named(text, { near });
      times[i] = performance.now() - start;
    });
  }
  const sorted = times.toSorted();
  const share = (part: number) => sorted[Math.floor(part * (sorted.length - 1))] as number;
  const names = places.map(({ street, locality }) => `${street ?? ''} ${locality ?? ''}`.toLowerCase());
  const scanned = performance.now();
  for (const { text } of typed.slice(0, 10)) names.filter((name) => name.includes(text.toLowerCase()));
  const scan = (performance.now() - scanned) / 10;
  return {
    what: `finding as typed, ${typed.length} texts, a third with a slip`,
    ours: `99 % within ${share(0.99).toFixed(1)} ms, median ${share(0.5).toFixed(2)} ms`,
    baseline: `going through all texts, no slips ${scan.toFixed(0)} ms`,
    ratio: `${(share(0.99) / scan).toFixed(2)} ×`,
    goal: '≤ 5 ms',
    met: share(0.99) <= 5,
  };
}
