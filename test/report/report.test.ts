import { Trail, ahead, type CircleFence, type RawFix } from 'aurelian-drift';
import { reportPage, type ReportOptions } from 'aurelian-drift/report';
import { randomFrom } from 'aurelian-drift/testing';
import { expect } from 'chai';

const start = Date.UTC(2026, 4, 14, 22, 30);
const hut = { lat: 44.2, lon: -33.6 };

/** North at 1.5 m/s for half an hour, over a hill of 60 m in the middle. */
const walk = (more: (i: number) => object = () => ({})): RawFix[] =>
  Array.from({ length: 1801 }, (_, i) => ({
    time: start + i * 1000,
    ...ahead(hut, 0, i * 1.5),
    altitude: 20 + 60 * Math.max(0, 1 - Math.abs(i - 900) / 900),
    ...more(i),
  }));
const report = (fixes: RawFix[], options: ReportOptions = {}) =>
  reportPage({ trails: [Trail.from(fixes, { name: 'Over the hill' })] }, options);
/** The text of a page, without its tags. */
const words = (page: string) =>
  page
    .slice(page.indexOf('<body>'))
    .replaceAll(/<[^>]*>/g, ' ')
    .replaceAll(/\s+/g, ' ');

describe('a report', () => {
  it('shows the figures in the requested units, language and time zone', () => {
    const plain = words(report(walk()));
    expect(plain).to.include('14 May 2026, 22:30:00 UTC to 14 May 2026, 23:00:00 UTC');
    for (const figure of [
      'Distance 2.70 km',
      'Moving 30 min',
      'Moving speed 5.4 km/h',
      'Pace in motion 11:07 min/km',
      'Climb 60 m',
      'Descent 60 m',
      'Gaps none',
    ])
      expect(plain).to.include(figure);
    const foreign = words(
      report(walk(), { units: 'imperial', locale: 'de', timeZone: 'Etc/GMT-2', title: 'Abends' }),
    );
    expect(foreign).to.include('Abends').and.to.include('15. Mai 2026, 00:30:00');
    for (const figure of ['Distance 1,68 mi', 'Climb 196 ft', 'Splits of 1,00 mi'])
      expect(foreign).to.include(figure);
  });

  it('shows the raw distance beside the honest one, and each stop with its place and duration', () => {
    // North for ten minutes, four minutes of rest, and on; every fix is 4 m to one side.
    const fixes = Array.from({ length: 1200 }, (_, i) => {
      const walked = 1.5 * (Math.min(i, 600) + Math.max(0, i - 840));
      const side = ahead(ahead(hut, 0, walked), i % 2 === 0 ? 90 : 270, 4);
      const resting = i >= 600 && i < 840;
      return {
        time: start + i * 1000,
        ...side,
        accuracy: 9,
        speed: resting ? 0 : 1.5,
        ...(!resting && { course: 0 }),
      };
    });
    const reported = words(report(fixes, { locale: 'en-GB' }));
    const { distance, rawDistance } = Trail.from(fixes).summary();
    expect(distance).to.be.closeTo(1439, 15);
    expect(rawDistance).to.be.above(9000);
    expect(reported).to.match(/Distance 1\.4\d km.*Stops 1 Raw distance 9\.\d+ km/);
    expect(reported).to.include(
      'The distance is measured without the noise; the plain sum from fix to fix is',
    );
    expect(reported).to.match(
      /Stops From Duration Where 22:40:0\d (3 min 5\d s|4 min( \ds)?) 44\.208\d\d° N, 33\.600\d\d° W/,
    );
  });

  it('has splits of the length asked, the quickest marked', () => {
    const quick = walk().map((raw, i) => ({
      ...raw,
      ...ahead(hut, 0, i < 900 ? i * 1.5 : 1350 + (i - 900) * 2),
    }));
    const page = report(quick, { splits: 500 });
    const [, table = ''] = /<tbody>(.*?)<\/tbody>/s.exec(page) ?? [];
    const rows = table.split('\n');
    expect(rows).to.have.length(7);
    const best = rows.flatMap((row, i) => (row.includes('class="best"') ? [i] : []));
    expect(best.length).to.be.at.least(1);
    for (const i of best) expect(i).to.be.above(2);
    expect(rows[0]!.replaceAll(/<[^>]*>/g, ' ').replaceAll(/ +/g, ' ')).to.include(
      '500 m 5 min 33 s 11:07 min/km',
    );
  });

  it('draws the hill as high as it is, over distance and over time', () => {
    const page = report(walk());
    const descriptions = [
      ...page.matchAll(/<title>Height over (\w+)<\/title><desc>From ([\d.]+) to ([\d.]+)/g),
    ];
    expect(descriptions.map(([, along]) => along)).to.deep.equal(['distance', 'time']);
    for (const [, , low, high] of descriptions) {
      expect(Number(low)).to.be.closeTo(20, 1);
      expect(Number(high)).to.be.closeTo(80, 1);
    }
  });

  it('draws the smoothed heights over the measured ones', () => {
    const random = randomFrom(8);
    const noisy = report(walk((i) => ({ altitude: 50 + Math.sin(i / 300) * 30 + 4 * random.normal() })));
    const [height] = noisy.match(/<figure class="chart">.*?<\/figure>/s)!;
    expect(height).to.include('thin line: as measured');
    // The measured line first, then the area and the line of the smoothed heights.
    const lengths = [...height.matchAll(/<path d="([^"]*C[^"]*)" (?:fill="none" stroke="(#\w+)"|fill)/g)].map(
      ([, path = '']) => {
        const ys = [...path.matchAll(/,(-?[\d.]+)(?=[CLMZ]|$)/g)].map(([, y]) => Number(y));
        return ys.reduce((sum, y, i) => (i === 0 ? 0 : sum + Math.abs(y - ys[i - 1]!)), 0);
      },
    );
    expect(lengths).to.have.length(3);
    expect(lengths[0]! / lengths[2]!).to.be.above(1.5);
  });

  it('of a line without times has length, climb, points and height, and says what cannot be known', () => {
    const part = [0, 40, 10].map((altitude, i) => ({ ...ahead(hut, 0, 500 * i), altitude: 20 + altitude }));
    const text = words(reportPage({ trails: [], lines: [{ name: 'Planned <way>', parts: [part] }] }));
    for (const figure of [
      'Planned &lt;way&gt;',
      'Distance 1.00 km',
      'Along the slope 1.00 km',
      'Climb 40 m',
      'Descent 30 m',
      'Points 3',
      'The points have no times',
      'From 20.0 to 60.0 m.',
    ])
      expect(text).to.include(figure);
    expect(text).not.to.include('Raw distance');
  });

  it('leaves out a height that is coarse beside the others, and draws no line through a gap', () => {
    const coarse = walk((i) =>
      i === 700 ? { altitude: 900, altitudeAccuracy: 200 } : { altitudeAccuracy: 5 },
    );
    expect(report(coarse)).to.match(/<desc>From 20\.\d to 79\.\d/);
    const apart = walk().map((raw, i) => ({ ...raw, time: raw.time + (i > 900 ? 600_000 : 0) }));
    const page = report(apart);
    expect(words(page)).to.include('The path is unknown for 10 min 1 s in 1 gap');
    const [figure] = /<figure class="chart">.*?<\/figure>/s.exec(page)!;
    expect(figure.match(/stroke-linecap="round"/g)).to.have.length(2);
  });

  it('measures a speed that no fix reports, and shows one that is', () => {
    const described = (page: string) =>
      /<title>Speed over time<\/title><desc>From ([\d.]+) to ([\d.]+)/.exec(page)!.slice(1).map(Number);
    const [low, high] = described(report(walk()));
    expect([low, high]).to.deep.equal([5.4, 5.4]);
    expect(described(report(walk(() => ({ speed: 2 }))))).to.deep.equal([7.2, 7.2]);
  });

  it('shows crossings and the time in each fence, or that none was entered', () => {
    const fence = (metres: number): CircleFence => ({
      kind: 'circle',
      id: 'a',
      name: 'Top & <b>bottom',
      centre: ahead(hut, 0, metres),
      radius: 150,
    });
    const trails = [Trail.from(walk())];
    const page = reportPage({ trails, fences: [fence(1350)], closed: new Set(['a']) });
    expect(words(page)).to.include('Top &amp; &lt;b&gt;bottom 3 min 20 s 1');
    expect(page).not.to.include('<b>bottom');
    expect(words(page)).to.match(/22:43:20 enter .* 100 % .* exit .* 3 min 20 s/);
    expect(words(reportPage({ trails, fences: [fence(90_000)] }))).to.include('None was entered.');
  });

  it('without a trail, or with unknown options, is refused', () => {
    expect(() => reportPage({ trails: [new Trail()] })).to.throw('there is no fix to report');
    expect(() => report(walk(), { unit: 'metric' } as ReportOptions)).to.throw(
      'no option "unit", did you mean "units"?',
    );
    expect(() => report(walk(), { splits: 0 })).to.throw('reportPage: splits must be 1 to 10000000 m, got 0');
    expect(() => report(walk(), { timeZone: 'Nowhere' })).to.throw('"Nowhere" is not a time zone');
  });
});
