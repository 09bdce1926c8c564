import { expect } from 'chai';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { aurelian, workFolder } from '../support/aurelian.js';

interface Reported {
  readonly kind: string;
  readonly time: string;
  readonly certainty: number;
  readonly lat: number;
  readonly lon: number;
}

const folder = workFolder();
const run = (words: string) => aurelian(folder.path, words.split(' '));
const file = (name: string) => join(folder.path, name);

describe('the log of crossings, by command', () => {
  before(async () => {
    await run('simulate demo:dune-round -o walk.gpx --seed 7');
    await run('simulate demo:tarn-round -o gaps.gpx --seed 1 --reception deep');
    const point = (name: string, properties: object) => ({
      type: 'Feature',
      geometry: { type: 'Point', coordinates: [-33.5523, 44.2136] },
      properties: { name, radius: 120, ...properties },
    });
    const when = { hours: '08:00/08:08', timeZone: 'UTC' };
    const document = {
      type: 'FeatureCollection',
      features: [point('Day', { id: 'day', when }), point('Slow', { id: 'slow', linger: 60 })],
    };
    await writeFile(file('own.geojson'), JSON.stringify(document));
  });

  it(
    'lists place, course, certainty, accuracy and duration of each, and the time in each ' +
      'fence; filters apply',
    async () => {
      const { out } = await run('crossings walk.gpx --fences demo --times');
      const lines = out.split('\n');
      expect(lines[0]).to.match(/^UTC +kind +fence +place +course +certainty +accuracy +duration$/);
      expect(lines[2]).to.match(
        /^08:11:\d\d +exit +Marram East +44\.\d{5}° N, 33\.\d{5}° W +2\d\d° W\w* +100 % +±8 m +6 min \d+ s$/,
      );
      expect(lines.filter((line) => /^Marram East +6 min \d+ s +1$/.test(line)).length).to.equal(1);
      const all = (await run('crossings walk.gpx --fences demo --json')).json() as Reported[];
      const json = async (words: string) =>
        (await run(`crossings walk.gpx --fences demo --json ${words}`)).json() as Reported[];
      expect(await json('--kind exit --fence gorse-hollow')).to.deep.equal([all[7]]);
      expect(await json(`--from ${all[2]!.time} --to ${all[4]!.time}`)).to.deep.equal(all.slice(2, 4));
      expect((await json('--trusting')).every(({ certainty }) => certainty === 1)).to.equal(true);
    },
  );

  it('writes CSV and GeoJSON with the same crossings, and overwrites no file', async () => {
    const all = (await run('crossings walk.gpx --fences demo --json')).json() as Reported[];
    expect((await run('crossings walk.gpx --fences demo -o log.csv')).err).to.equal('log.csv: 8 crossings\n');
    const [head, ...rows] = (await readFile(file('log.csv'), 'utf8')).trimEnd().split('\r\n');
    expect(head).to.equal('time,kind,fence,name,lat,lon,certainty,accuracy,course,duration,notBefore');
    expect(rows.map((row) => row.split(',')[0])).to.deep.equal(all.map(({ time }) => time));
    await run('crossings walk.gpx --fences demo -o log.geojson');
    const { features } = JSON.parse(await readFile(file('log.geojson'), 'utf8')) as {
      features: { geometry: { coordinates: number[] }; properties: Reported }[];
    };
    expect(features.map(({ properties }) => properties.time)).to.deep.equal(all.map(({ time }) => time));
    expect(features[0]!.geometry.coordinates).to.deep.equal([all[0]!.lon, all[0]!.lat]);
    expect((await run('crossings walk.gpx --fences demo -o log.csv')).code).to.equal(1);
    expect((await run('crossings walk.gpx --fences demo -o log.csv --force --kind exit')).code).to.equal(0);
    expect((await readFile(file('log.csv'), 'utf8')).split('\r\n').length).to.equal(6);
  });

  it('shows a crossing inside a gap by the two times between which it happened', async () => {
    const unseen = (await run('crossings gaps.gpx walk.gpx --fences demo --json'))
      .json()
      .filter(({ notBefore }) => notBefore !== undefined);
    expect(unseen.length).to.be.at.least(3);
    for (const { time, notBefore, duration } of unseen) {
      expect(Date.parse(notBefore)).to.be.below(Date.parse(time));
      expect(duration).to.equal(undefined);
    }
    expect((await run('crossings gaps.gpx --fences demo')).out).to.match(
      /\d\d:\d\d:\d\d–\d\d:\d\d:\d\d +enter/,
    );
  });

  it('knows fences that linger and that have their times', async () => {
    const reported = (await run('crossings walk.gpx --fences own.geojson --json')).json();
    expect(reported.map(({ kind, fence }) => `${kind} ${fence}`)).to.deep.equal([
      'enter day',
      'enter slow',
      'linger slow',
      'closed day',
      'exit slow',
    ]);
    expect(reported[3].time).to.equal('2026-05-14T08:08:00Z');
    expect(reported[2].duration).to.equal(60);
  });

  it('draws the fences around anew below the crossings, as one follows', async () => {
    const { out } = await run('follow walk.gpx --fences own.geojson --view panel');
    const last = out.split('\u001B[0J').at(-1)!;
    expect(last)
      .to.match(/○ Slow +outside +[\d.]+ k?m/)
      .and.to.match(/○ Day +not watched/);
    expect(out).to.match(/● Slow +inside +[\d.]+ m +08:0\d:\d\d +\d+ s/);
    expect(out.match(/-- \w+ \w+/g)).to.deep.equal([
      '-- enter Day',
      '-- enter Slow',
      '-- linger Slow',
      '-- closed Day',
      '-- exit Slow',
    ]);
    // Each drawing takes away exactly the one before.
    for (const drawn of out.split('\u001B[0J').slice(0, -1)) {
      const height = Number(/\u001B\[(\d+)A$/.exec(drawn)![1]); // eslint-disable-line no-control-regex
      expect(
        drawn.replace(/^\d.*\n/gm, (line) => (line.includes('--') ? '' : line)).split('\n').length - 1,
      ).to.equal(height);
    }
  });

  const wrong: [string, RegExp][] = [
    ['crossings walk.gpx --fences demo --kind exti', /"exti" is no kind, did you mean "exit"\?/],
    ['crossings walk.gpx --fences demo --fence Maram', /there is no fence "Maram", /],
    [
      'crossings walk.gpx --fences demo -o log.txt',
      /log\.txt: the ending says the format; \.csv and \.geojson are known/,
    ],
    ['follow walk.gpx --view panel', /--view goes with --fences/],
    ['follow walk.gpx --fences demo --view panel --json', /--json has no panel/],
  ];
  for (const [words, message] of wrong) {
    it(`refuses ${words}`, async () => {
      const { code, out, err } = await run(words);
      expect([code === 0, out]).to.deep.equal([false, '']);
      expect(err).to.match(message);
    });
  }
});
