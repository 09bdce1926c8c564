import { keepStored, storageRoom, type StorageRoom } from 'aurelian-drift/stores';
import { button, write } from '../shared/page.js';

/* What the page does without a network, and whether the browser keeps what is stored. */

/** How many trails were stored at the last visit: fewer now means that the browser has erased some. */
const COUNTED = 'round/trails';
/** Bytes below which the room is told as short: a day’s round is about a tenth of it. */
const SHORT = 50e6;

/** The event with which a browser offers to install the page; not in the standard types. */
interface InstallOffer extends Event {
  prompt(): Promise<unknown>;
}

/** Opens the page without a network from now on, and offers to install it. */
export function workOffline(): void {
  const tell = (ready: boolean) => {
    const words = ready ? 'This page is on the device, and opens without a network.' : '';
    write('network', navigator.onLine ? words : 'No network. Map, places and ways are on the device.');
  };
  tell(false);
  const { serviceWorker } = navigator as Partial<Navigator>;
  if (!import.meta.env.PROD || serviceWorker === undefined) return;
  let ready = false;
  for (const name of ['online', 'offline']) addEventListener(name, () => tell(ready));
  addEventListener('load', () => {
    // This page only: another app on the same address keeps its own pages.
    void serviceWorker
      .register('../sw.js', { scope: './' })
      .then(() => serviceWorker.ready)
      .then(() => {
        ready = true;
        tell(ready);
      })
      .catch(() => write('network', 'This browser does not keep the page for use without a network.'));
  });
  addEventListener('beforeinstallprompt', (event) => {
    event.preventDefault();
    button('install').hidden = false;
    button('install').onclick = () => void (event as InstallOffer).prompt();
  });
  addEventListener('appinstalled', () => (button('install').hidden = true));
}

/** Asks the browser to keep what is stored: now that a recording begins, there is something to lose. */
export async function askToKeep(): Promise<void> {
  write('storage', roomText(await keepStored()));
}

/** Tells the room, and trails that the browser has erased since the last visit. */
export async function tellRoom(trails: number): Promise<void> {
  const before = Number(localStorage.getItem(COUNTED) ?? 0);
  if (trails < before) {
    const lost = before - trails;
    const words = lost === 1 ? 'A trail that was kept here is' : `${lost} trails that were kept here are`;
    write('erased', `${words} gone: the browser has erased what this page had stored.`);
  }
  countTrails(trails);
  write('storage', roomText(await storageRoom()));
}

/** Notes how many trails are stored: the user, not the browser, added or deleted some. */
export function countTrails(trails: number): void {
  localStorage.setItem(COUNTED, String(trails));
}

function roomText({ state, used, free }: StorageRoom): string {
  const size = (bytes: number) => {
    const [value, unit] = bytes < 1e9 ? [bytes / 1e6, 'MB'] : [bytes / 1e9, 'GB'];
    return `${value.toLocaleString('en-GB', { maximumFractionDigits: value < 10 ? 1 : 0 })} ${unit}`;
  };
  const words = {
    kept: 'The browser keeps your trails until you delete them.',
    erasable: 'The browser may erase your trails when its disk is nearly full: save those that matter.',
    unknown: '',
  }[state];
  const room =
    used === undefined ? '' : `${size(used)} used${free === undefined ? '' : `, ${size(free)} free`}.`;
  const short = free !== undefined && free < SHORT ? 'There is little room left: delete old trails.' : '';
  return [words, room, short].filter((part) => part !== '').join(' ');
}
