import { boundsContain, type Position } from 'aurelian-drift';
import type { MapSheet } from 'aurelian-drift/map';
import { putGround } from 'aurelian-drift/page';
import { CREDIT, ISLAND, islandAddress } from './island.js';
import { piece, pressable } from './page.js';

/* The visitor’s own map in place of the island: a GeoJSON file or tiles, kept in the address of the page. */

interface OwnMap {
  /** Address of a GeoJSON file, or a template of tiles. */
  readonly map: string;
  readonly credit: string;
}

/** The map that ?map= and ?credit= in the address name. */
export function ownMap(): OwnMap | undefined {
  if (typeof location === 'undefined') return undefined; // drawn on a server
  const settings = new URLSearchParams(location.search);
  const map = settings.get('map');
  return map === null || problemOf(map) !== undefined
    ? undefined
    : { map, credit: settings.get('credit') ?? '' };
}

/** The visitor’s own map as options of a map of a framework, or another background. */
export function groundOr(other: string, credit: string): { ground: string; credit: string } {
  const own = ownMap();
  return own === undefined ? { ground: other, credit } : { ground: own.map, credit: own.credit };
}

/** Gives a map the visitor’s own background, else the island; a place elsewhere gets a grid. */
export function showGround(sheet: MapSheet, place?: Position): void {
  const own = ownMap();
  if (own !== undefined) {
    putGround(sheet, own.map, own.credit);
    return;
  }
  const here = place === undefined || boundsContain(ISLAND, place);
  putGround(sheet, here ? islandAddress() : 'grid', here ? CREDIT : undefined);
}

/**
 * Fills the element #own-map with the field for the visitor’s own map.
 *
 * @param apply shows the map that the address names now. Default: the page is loaded again.
 */
export function offerOwnMap(apply: () => void = () => location.reload()): void {
  const place = document.getElementById('own-map');
  if (place === null) return;
  const form = document.createElement('form');
  const map = labelled(form, 'Address of a GeoJSON file, or of tiles with {z}, {x} and {y}', 'map');
  const credit = labelled(form, 'Whose data it is', 'credit');
  const own = ownMap();
  map.value = own?.map ?? '';
  credit.value = own?.credit ?? '';
  const show = piece('button', 'Show it');
  const back = pressable('Show the island', () => {
    map.value = credit.value = '';
    keep(undefined);
  });
  back.hidden = own === undefined;
  const trouble = piece('p', '', 'trouble');
  trouble.role = 'status';
  const acts = piece('p', '', 'acts');
  acts.append(show, back);
  form.append(acts, trouble);
  const keep = (chosen: OwnMap | undefined) => {
    const address = new URL(location.href);
    for (const name of ['map', 'credit'] as const) {
      if (chosen === undefined) address.searchParams.delete(name);
      else address.searchParams.set(name, chosen[name]);
    }
    history.replaceState(history.state, '', address);
    back.hidden = chosen === undefined;
    apply();
  };
  form.addEventListener('submit', (event) => {
    event.preventDefault();
    const problem = problemOf(map.value.trim(), credit.value.trim());
    trouble.textContent = problem ?? '';
    if (problem === undefined) keep({ map: map.value.trim(), credit: credit.value.trim() });
  });
  const details = document.createElement('details');
  details.append(piece('summary', 'See your own town: another map'), form);
  place.replaceChildren(details);
}

/** What is wrong with the address of a map, in words. */
function problemOf(map: string, credit?: string): string | undefined {
  const address = map.replace(/[{}]/g, '');
  if (!URL.canParse(address, document.baseURI) || map === '') return 'This is no address.';
  if (!/^https?:$/.test(new URL(address, document.baseURI).protocol))
    return 'The address begins with https: or http:.';
  if (!map.includes('{')) return undefined;
  const missing = ['{z}', '{x}', '{y}'].filter((part) => !map.includes(part));
  if (missing.length > 0)
    return `An address of tiles has {z}, {x} and {y}; ${missing.join(', ')} is missing.`;
  return credit === '' ? 'Name the source of the tiles: the map shows it.' : undefined;
}

function labelled(form: HTMLFormElement, text: string, name: string): HTMLInputElement {
  const label = piece('label', `${text} `);
  const field = document.createElement('input');
  field.name = name;
  field.autocomplete = 'off';
  field.spellcheck = false;
  label.append(field);
  form.append(label);
  return field;
}
