import { isPretend } from './pretend.js';
import { offerOwnMap } from './own-map.js';

/* The tools at the foot of a small page: another map, and a pretend device. Not a part of the app that it shows. */

const tools = document.getElementById('tools') as HTMLElement;
const own = document.createElement('div');
own.id = 'own-map';
const link = document.createElement('a');
const address = new URL(location.href);
if (isPretend()) address.searchParams.delete('pretend');
else address.searchParams.set('pretend', '');
link.href = address.href;
link.textContent = isPretend() ? 'Use the receiver of this device' : 'Use a pretend device';
const line = document.createElement('p');
line.append(link);
tools.replaceChildren(line, own);
offerOwnMap();
