import type { MapElement, ReceiverElement } from 'aurelian-drift/elements';
import { ownMap } from './own-map.js';
import { isPretend } from './pretend.js';
import { tapsOn, where } from './source.js';
import './tools.js';

/* The tools of a page that is made of elements. */

const receiver = document.querySelector('aurelian-receiver') as ReceiverElement;
const map = document.querySelector('aurelian-map') as MapElement;
if (isPretend()) Object.assign(receiver, where());
const own = ownMap();
if (own !== undefined) Object.assign(map, { credit: own.credit, ground: own.map });
await customElements.whenDefined('aurelian-map');
tapsOn(map.sheet);
