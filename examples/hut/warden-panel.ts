import type { ScaledClock } from 'aurelian-drift/testing';
import { offerTempo, panelIn } from '../shared/pretend-panel.js';
import type { PretendWarden } from './pretend-party.js';

/** The panel of the pretend wardens: what happens to whose phone, and the speed of time. */
export function showWardenPanel(wardens: readonly PretendWarden[], clock: ScaledClock): void {
  const { told, choice, act } = panelIn(
    document.getElementById('pretend') as HTMLElement,
    'Pretend wardens walk. Nobody is out there, and nothing leaves this page.',
  );
  const names = wardens.map(({ name }) => name);
  const warden = () => wardens.find(({ name }) => name === chosen) as PretendWarden;
  let chosen = names[0] as string;
  choice(
    'The phone of',
    names,
    (name) => name,
    chosen,
    (name) => (chosen = name),
  );
  act('goes into a pocket', () => {
    warden().device.hide();
    told.textContent = `The phone of ${chosen} rests.`;
  });
  act('comes out of it', () => {
    warden().device.show();
    told.textContent = `${chosen} looks at the phone.`;
  });
  act('dies', () => {
    warden().die();
    told.textContent = `The phone of ${chosen} is dead. The hut does not know it yet.`;
  });
  offerTempo(choice, clock);
}
