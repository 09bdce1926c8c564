import { processLife } from 'aurelian-drift-node';
import { PartyWatch, mqttBroker } from 'aurelian-drift/presence';
import { expect } from 'chai';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';
import { PARTY, standIn, type RunningBroker } from '../support/brokers.js';
import { eventually } from '../support/eventually.js';

const announcer = fileURLToPath(new URL('../support/announcer.ts', import.meta.url));

describe('a program in Node that is asked to end', function () {
  this.timeout(240_000);
  let broker: RunningBroker;
  before(async () => {
    broker = await standIn();
  });
  after(() => broker.close());

  for (const [what, member, words, end] of [
    ['leaves its party, and ends by the signal as soon as it has', 'ines', [], [null, 'SIGTERM']],
    ['leaves its party, and ends as it likes where it hears the signal itself', 'tomas', ['own'], [7, null]],
  ] as const) {
    it(what, async () => {
      const address = broker.tcp[0]!;
      const watch = new PartyWatch({
        party: PARTY,
        broker: mqttBroker(address, { username: 'hut', password: 'hut-1234' }),
      });
      const state = () => watch.$members.get().find(({ id }) => id === member)?.state;
      const child = spawn(
        process.execPath,
        ['--conditions=aurelian-source', '--import=tsx', announcer, address, member, ...words],
        { stdio: ['ignore', 'pipe', 'inherit'] },
      );
      await Promise.race([once(child.stdout, 'data'), once(child, 'exit')]);
      await eventually(() => expect(state()).to.be.oneOf(['joined', 'moved', 'still']));
      const asked = Date.now();
      child.kill('SIGTERM');
      expect(await once(child, 'exit')).to.deep.equal(end);
      expect(Date.now() - asked).to.be.below(55_000); // not only when its grace period of a minute is over
      await eventually(() => expect(state()).to.equal('left'));
      await watch.close();
    });
  }

  it('refuses an invalid grace period', () => {
    expect(() => processLife({ grace: -1 })).to.throw('grace must be 0 to 60 seconds, got -1');
  });
});
