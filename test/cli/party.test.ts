import { expect } from 'chai';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { aurelian, started, workFolder, type Running } from '../support/aurelian.js';
import { eventually } from '../support/eventually.js';

describe('the commands of a party', function () {
  this.timeout(240_000);
  const folder = workFolder();
  const running: Running[] = [];
  let served: Running;
  let broker = '';
  const run = (...words: string[]) => aurelian(folder.path, ['party', ...words]);
  const begin = (...words: string[]) => {
    const made = started(folder.path, ['party', ...words]);
    running.push(made);
    return made;
  };
  const end = async (made: Running) => {
    made.kill('SIGTERM');
    return made.over;
  };

  before(async () => {
    served = started(folder.path, ['serve', '--port', '0']);
    await eventually(() => expect(served.out()).to.include('Ctrl+C ends'));
    broker = /a broker for 5 users at (mqtt:\S+) and ws:\S+\/party/.exec(served.out())?.[1] ?? '';
    expect(broker).to.match(/^mqtt:\/\/localhost:\d+$/);
  });
  afterEach(() => Promise.all(running.splice(0).map(end)));
  after(() => end(served));

  it(
    'announce states who receives what and shares until it is stopped; watch shows the ' +
      'roster, as a table and as JSON',
    async () => {
      const announcer = begin(
        'announce',
        'demo',
        '--as',
        'mirel',
        '--name',
        'Mirel <b>',
        '--rounding',
        '100m',
        '--limit',
        '1h',
        '--broker',
        broker,
      );
      await eventually(() => expect(announcer.out()).to.not.equal('')); // a place is sent
      expect(announcer.err()).to.include('Seen by all who may read the party vanesk at localhost:');
      expect(announcer.err()).to.include('They see the place rounded to 100 m.');
      expect(announcer.err()).to.match(/Sharing ends by itself after 1 h\./);
      const [shown, reported] = await Promise.all([
        run('watch', '--for', '2s', '--broker', broker),
        run('watch', '--for', '2s', '--json', '--broker', broker),
      ]);
      expect([shown.code, reported.code]).to.deep.equal([0, 0]);
      expect(shown.out).to.match(/^who +how +since +place +accuracy +place of +heard$/m);
      expect(shown.out).to.match(
        /^● Mirel <b> +moved +[\d:]{8} +44\.18\d{3}° N, 33\.6\d{4}° W +±\d+ m +(now|\d+ s ago) +(now|\d+ s ago)$/m,
      );
      const last = reported.json().at(-1) as {
        id: string;
        state: string;
        rounding: number;
        place: { lat: number; time: string };
      };
      expect(last).to.deep.include({ id: 'mirel', state: 'moved', rounding: 100 });
      expect(last.place.lat).to.be.closeTo(44.186, 0.01);
      expect(Date.now() - Date.parse(last.place.time)).to.be.within(0, 30_000);
      const { code, out } = await end(announcer);
      expect(code).to.equal(0);
      expect(out).to.match(/^\d\d:\d\d:\d\d {2}44\.18\d{3}° N, 33\.6\d{4}° W {2}±\d+ m$/m);
      expect((await run('watch', '--for', '1s', '--broker', broker)).out).to.equal('\nNobody shares.\n');
    },
  );

  it(
    'guard reports a member without a sign of life, and keeps the report in a log that ' + 'alarms prints',
    async () => {
      const guard = begin('guard', '--check-in', '1s', '--memory', 'memory', '--broker', broker);
      await eventually(() => expect(guard.err()).to.include('connected'));
      const announcer = begin(
        'announce',
        'demo:dune-round',
        '--as',
        'osk',
        '--keep-alive',
        '30s',
        '--broker',
        broker,
      );
      await eventually(() => expect(announcer.out()).to.not.equal(''));
      announcer.kill('SIGKILL');
      // It listens for ten seconds before silence counts.
      await eventually(
        () =>
          expect(guard.out()).to.match(/^\d\d:\d\d:\d\d {2}!! osk gave no sign of life since then {2}44\.2/),
        30,
      );
      expect((await end(guard)).err).to.match(/places \d+, alarms 1, members in the party 1/);
      const log = await run('alarms', 'memory', '--json');
      expect(log.json()).to.have.length(1);
      expect(log.json()[0]).to.include({ member: 'osk', kind: 'missed' });
      expect(log.json()[0].id).to.match(/^osk:check-in:missed:\d{13}$/);
    },
  );

  it('rights writes the lists of brokers from the users of a file', async () => {
    const users = {
      party: 'moor',
      users: [
        { id: 'a', role: 'member', password: 'p"w' },
        { id: 'hut', role: 'viewer', password: 'x' },
      ],
    };
    await writeFile(join(folder.path, 'users.json'), JSON.stringify(users));
    const mosquitto = await run('rights', 'users.json', '--for', 'mosquitto');
    // The bucket of "a" is 0xed.
    expect(mosquitto.out).to.equal(
      'user a\ntopic read drift/1/moor/237/a/place\ntopic read drift/1/moor/237/a/state\ntopic write ' +
        'drift/1/moor/237/a/place\ntopic write drift/1/moor/237/a/state\n\nuser hut\ntopic read ' +
        'drift/1/moor/+/+/+\n',
    );
    const nats = await run('rights', 'users.json', '--for', 'nats');
    expect(nats.out).to.include(
      'user: "a", password: "p\\"w", permissions: { publish: ["drift.1.moor.237.a.place"',
    );
    expect(nats.out).to.include('user: "hut", password: "x", permissions: { publish: { deny: ">" }');
  });

  for (const [words, code, text] of [
    [['announce', 'walk.gpx', '--as', 'mirel'], 2, /walk\.gpx: a recording is not where somebody is now/],
    [['announce', 'demo'], 2, /required option '--as <id>'/],
    [
      ['announce', 'demo', '--as', 'Mirel'],
      2,
      /there is no password for Mirel: give --password-file, or set AURELIAN_PASSWORD/,
    ],
    [['watch', '--broker', 'tcp://here'], 1, /a broker’s address is like mqtt:\/\/host:1883/],
    [['watch', '--view', 'panel', '--json'], 2, /--json has no panel/],
    [['guard', '--slot', '5/4'], 1, /a slot is written like 2\/4/],
    [['guard', '--fences', 'nowhere.geojson'], 1, /nowhere\.geojson: there is no such file/],
    [['alarms', 'nowhere'], 1, /nowhere is not a valid state of a guard/],
    [['rights', 'demo', '--for', 'mosquito'], 2, /Allowed choices are mosquitto, nats/],
    [['anounce'], 2, /Did you mean announce/],
  ] as const)
    it(`refuses party ${words.join(' ')}`, async () => {
      const outcome = await run(...words);
      expect([outcome.code, outcome.out]).to.deep.equal([code, '']);
      expect(outcome.err).to.match(text);
    });

  it('refuses impossible users, and names the line', async () => {
    for (const [users, text] of [
      [
        { party: 'moor', users: [{ id: 'a', role: 'membr', password: 'x' }] },
        /users\.0\.role|:\d+: .*role "membr", did you mean "member"/,
      ],
      [
        { party: 'Moor', users: [{ id: 'a', role: 'member', password: 'x' }] },
        /the id of a party is .*got "Moor"/,
      ],
      [{ party: 'moor', users: [{ id: 'a', role: 'member' }] }, /a has no password/],
      [{ party: 'moor' }, /there is no list of users/],
    ] as const) {
      await writeFile(join(folder.path, 'bad.json'), JSON.stringify(users, undefined, 1));
      const { code, err } = await run('rights', 'bad.json', '--for', 'nats');
      expect(code).to.equal(1);
      expect(err).to.match(text);
    }
  });
});
