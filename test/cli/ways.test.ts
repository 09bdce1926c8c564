import { readGeoJson } from 'aurelian-drift';
import { waysFrom } from 'aurelian-drift/ways';
import { expect } from 'chai';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { aurelian, workFolder } from '../support/aurelian.js';

describe('ways, lanes and plans on the command line', () => {
  const folder = workFolder();
  const run = (...words: string[]) => aurelian(folder.path, words);
  const file = (name: string) => join(folder.path, name);
  const refused = async (...words: string[]) => {
    const { code, err } = await run(...words);
    expect(code).not.to.equal(0);
    return err;
  };

  before(async function () {
    this.timeout(120_000);
    await run('simulate', 'demo:tarn-round', '-o', 'walk.gpx', '--seed', '7', '--reception', 'trees');
  });

  it('a way is told in steps, between places by name, with what is left to walk', async () => {
    const { out } = await run('way', 'Wick Orrin', 'Nethery');
    expect(out).to.match(/^From Wick Orrin, Vanesk to Nethery, Vanesk, on foot: 2\.\d\d km, \d+ min/);
    expect(out).to.match(/Keep right onto Shore Lane +2\.\d\d km/);
    const { out: far } = await run('way', 'Tarn Hide', 'Orrin Stores');
    expect(far).to.match(/the nearest lane is \d+ m from the start/);
  });

  it('a way on wheels does not lead through the ford; the error names the nearest place', async () => {
    expect(await refused('way', 'Wick Orrin', 'Nethery', '--by', 'drive')).to.match(
      /no way leads there; the nearest place that can be reached, at 44\.\d+, -33\.\d+, is \d+ m away from it/,
    );
    expect(await refused('way', 'Tolvay', 'Skerin')).to.match(
      /no place has the name "Skerin"; similar: Skerrin/,
    );
    expect(await refused('way', 'Tolvay', '44.9,-33.5')).to.contain(
      'no open lane within 1000 m of the target',
    );
    expect(await refused('way', 'Tolvay', 'Skerrin', '--by', 'food')).to.contain('did you mean "foot"?');
    expect(await refused('way', 'Tolvay', 'Skerrin', '--choices', '9')).to.contain('--choices is 1 to 5');
    expect(await refused('way', 'Tolvay', 'Skerrin', '-o', 'way.txt')).to.contain(
      'the ending says the format',
    );
  });

  it('a way keeps off closed banks, and is GeoJSON for other programs, or a plan to follow', async () => {
    const ends = ['44.213949,-33.551848', '44.216109,-33.558289'];
    const metresOf = async (...more: string[]) =>
      waysFrom((await run('way', ...ends, '--json', ...more)).json()[0])[0]!.metres;
    expect(await metresOf('--closed', 'demo')).to.be.above((await metresOf()) + 20);
    await run('way', 'Wick Orrin', 'Carn Bothy', '-o', 'way.gpx');
    const { out } = await run('progress', 'walk.gpx', '--plan', 'way.gpx');
    expect(out)
      .to.match(/reached Shore Lane/)
      .and.match(/left the plan to the right, at 44\./);
    expect((await run('way', 'Wick Orrin', 'Carn Bothy', '-o', 'way.gpx')).err).to.contain('exists');
  });

  it('progress tells what was reached and done, and at once what is misspelt', async () => {
    const { out } = await run('progress', 'walk.gpx', '--plan', 'demo:tarn-round');
    expect(out)
      .to.match(/finished, (99|100) % of it done/)
      .and.match(/on the plan +yes/);
    const [json] = (await run('progress', 'walk.gpx', '--plan', 'demo:tarn-round', '--json')).json() as [
      { progress: { share: number }; events: { kind: string }[] },
    ];
    expect(json.progress.share).to.be.above(0.98);
    expect(json.events.map(({ kind }) => kind)).to.include('finished');
    expect(await refused('progress', 'walk.gpx', '--plan', 'demo:tern-round')).to.contain(
      'has no line "tern-round"',
    );
    expect(await refused('progress', 'walk.gpx', '--plan', 'demo', '--corridor', '0m')).to.contain(
      'it is 1m to 10km',
    );
    expect((await run('progress', 'walk.gpx', '--plan', 'demo:dune-round')).out).to.contain(
      'it was never near the plan',
    );
  });

  it('follow tells the events of a plan between the fixes, and where it ends', async () => {
    const { out } = await run('follow', 'walk.gpx', '--plan', 'demo:tarn-round');
    expect(out)
      .to.match(/^09:\d\d:\d\d {2}-- finished/m)
      .and.match(/^done +5\.\d+ km, (99|100) %/m);
  });

  it('match tells the lanes of a trail and writes the path over them; summary has both lengths', async () => {
    const { out } = await run('match', 'walk.gpx');
    expect(out)
      .to.match(/08:00:\d\d +Shore Lane +8\d\d m/)
      .and.match(/5\.\d\d km on lanes, 0 m off them/);
    await run('match', 'walk.gpx', '-o', 'path.geojson');
    expect(readGeoJson(await readFile(file('path.geojson'), 'utf8')).lines).to.have.length(1);
    const [summary] = (await run('summary', 'walk.gpx', '--network', 'demo', '--json')).json() as [
      { onLanes: number; offLanes: number },
    ];
    expect(summary.onLanes).to.be.closeTo(5197, 60);
    expect(summary.offLanes).to.be.below(30);
  });

  it('a network with likely faults is used, and they are named with the file', async () => {
    const line = (coordinates: number[][], name: string) => ({
      type: 'Feature',
      properties: { name },
      geometry: { type: 'LineString', coordinates },
    });
    const features = [
      line(
        [
          [-33.6, 44.2],
          [-33.59, 44.2],
        ],
        'A',
      ),
      line(
        [
          [-33.58998, 44.2],
          [-33.58, 44.2],
        ],
        'B',
      ),
    ];
    await writeFile(file('net.geojson'), JSON.stringify({ type: 'FeatureCollection', features }));
    const { err } = await run('way', '44.2,-33.6', '44.2,-33.58', '--network', 'net.geojson');
    expect(err)
      .to.match(/net\.geojson: [AB] ends 1\.60 m from [AB] without a connection/)
      .and.contain('no way leads there');
    expect(await refused('match', 'walk.gpx', '--network', 'walk.gpx')).to.contain('walk.gpx');
  });
});
