import { Receiver } from 'aurelian-drift';
import {
  SimulatedDevice,
  VirtualClock,
  installInPlatform,
  previewSource,
  type SimulatedDeviceOptions,
} from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut, route } from '../support/device.js';

/** A `navigator` of a platform, as seen by an app that does not use this library. */
interface Platform {
  geolocation: Geolocation;
  permissions: Permissions;
}

function installed(options: SimulatedDeviceOptions = {}) {
  const clock = new VirtualClock();
  const device = new SimulatedDevice({ at: hut, reception: 'exact', clock, ...options });
  const navigator = {} as Platform;
  const remove = installInPlatform(device, { navigator, clock });
  return { clock, device, navigator, remove };
}

/** A typical app: one position, or the code of its error. */
function once(navigator: Platform, settings?: PositionOptions): Promise<GeolocationPosition | number> {
  return new Promise((resolve) =>
    navigator.geolocation.getCurrentPosition(resolve, (error) => resolve(error.code), settings),
  );
}

describe('a pretend device in the place of the platform’s own interfaces', () => {
  it('prompts, and gives positions in the platform’s own form', async () => {
    const { clock, device, navigator } = installed({ thinking: 20 });
    const found = (await clock.settle(once(navigator, { timeout: 5000 }))) as GeolocationPosition;
    expect(found.coords).to.include({ latitude: 44.2, longitude: -33.6, accuracy: 0, altitude: null });
    expect(found.timestamp).to.equal(clock.now());
    expect([device.prompts, device.watches]).to.deep.equal([1, 0]);
  });

  it('gives each failure its code: denied, unavailable, timed out', async () => {
    const refused = installed({ answer: 'refuse' });
    expect(await refused.clock.settle(once(refused.navigator))).to.equal(1);
    const off = installed({ permission: 'granted', switch: 'off' });
    expect(await off.clock.settle(once(off.navigator))).to.equal(2);
    const slow = installed({ permission: 'granted', warmUp: 60 });
    expect(await slow.clock.settle(once(slow.navigator, { timeout: 3000 }))).to.equal(3);
  });

  it('walks while it is watched, until the watch is cleared, in no time', async () => {
    const { clock, device, navigator } = installed({ permission: 'granted', route });
    const times: number[] = [];
    const id = navigator.geolocation.watchPosition(({ timestamp }) => times.push(timestamp));
    await clock.advance(3600 / 4);
    expect(times).to.have.length(900);
    navigator.geolocation.clearWatch(id);
    await clock.advance(60);
    expect([times.length, device.watches]).to.deep.equal([900, 0]);
  });

  it('reports a permission’s state and its changes', async () => {
    const { clock, device, navigator } = installed();
    const status = await navigator.permissions.query({ name: 'geolocation' });
    const states: string[] = [status.state];
    status.addEventListener('change', () => states.push(status.state));
    await clock.settle(once(navigator));
    device.withdraw();
    await clock.advance(0);
    device.reset();
    await clock.advance(0);
    expect(states).to.deep.equal(['prompt', 'granted', 'denied', 'prompt']);
  });

  it('is taken out again and leaves nothing behind', () => {
    const { navigator, remove } = installed();
    expect(navigator.geolocation).to.have.property('watchPosition');
    remove();
    expect(navigator).to.deep.equal({});
  });
});

describe('a stand-in for design previews', () => {
  it(
    'gives one fix at a chosen place, at once, marked as simulated, and has no place ' + 'built in',
    async () => {
      const receiver = new Receiver({ source: previewSource(hut), purpose: 'Preview.' });
      expect(receiver.$fix.get()).to.equal(undefined);
      expect(await receiver.fix()).to.include({ ...hut, origin: 'simulated' });
      expect(() => previewSource({ lat: 120, lon: 30 })).to.throw('swapped?');
    },
  );
});
