import { Receiver } from 'aurelian-drift';
import { MapSheet } from 'aurelian-drift/map';
import { SimulatedDevice, type SimulatedDeviceOptions } from 'aurelian-drift/testing';

const HUT = { lat: 44.2, lon: -33.6 };
const container = (id: string) => document.getElementById(id) as HTMLElement;

/** A map of the hut in one of the frames. */
function map(id: string, more: object = {}): MapSheet {
  return new MapSheet({ container: container(id), controls: false, theme: 'auto', warn: () => {}, ...more });
}

/** A map whose user has a pretend device with this behaviour. */
function mapOf(id: string, device: SimulatedDeviceOptions): MapSheet {
  const source = new SimulatedDevice({ at: HUT, ...device });
  const receiver = new Receiver({ source, purpose: 'To show what a map says.', warn: () => {} });
  const made = map(id, { receiver });
  made.layers.put('grid', { kind: 'grid' });
  made.setOwnPlace(true);
  return made;
}

map('no-size', { centre: HUT, zoom: 14 }).layers.put('grid', { kind: 'grid' });
map('no-background', { centre: HUT, zoom: 14 });
map('tiles', { centre: HUT, zoom: 14 }).layers.put('tiles', {
  kind: 'tiles',
  template: 'https://tiles.vanesk.invalid/{z}/{x}/{y}.png',
  credit: 'Tiles of nobody',
});
mapOf('no-fix', { permission: 'granted', warmUp: 3600 });
mapOf('refused', { permission: 'barred' });
