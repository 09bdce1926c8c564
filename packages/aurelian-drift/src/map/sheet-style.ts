import { LOOK } from '../core/scene/look.js';
import { themed, type Theme } from '../core/scene/theme.js';
import { NOTES_STYLE } from './notes.js';
import { PIN_KEYS_STYLE } from './pin-keys.js';
import { STRIP_STYLE } from './strip.js';

/** Style sheet of the map in a theme. An app may set the colours by their names with `--aurelian-` before them. */
export function sheetStyle(theme: Theme): string {
  const colours: Readonly<Record<string, string>> = {
    ink: LOOK.ink,
    parchment: LOOK.parchment,
    paper: LOOK.lane,
    sand: LOOK.dune,
    gold: LOOK.gold,
    violet: LOOK.violet,
    faint: '#8b8373',
  };
  const variables = Object.entries(colours)
    .map(([name, colour]) => `--${name}: var(--aurelian-${name}, ${themed(colour, theme)});`)
    .join(' ');
  return `
  :host { display: block; position: relative; background: var(--parchment); container-type: inline-size; ${variables} }
  :host([hidden]) { display: none; }
  .sheet { position: absolute; inset: 0; box-sizing: border-box; padding: inherit; display: flex;
    flex-direction: column; }
  .frame { position: relative; flex: 1; min-height: 0; }
  .stage { position: absolute; inset: 0; overflow: hidden; touch-action: none; cursor: grab; user-select: none;
    -webkit-user-select: none; }
  .stage:has([data-kind='no-size']) { overflow: visible; }
  .stage:active { cursor: grabbing; }
  .stage:focus-visible { outline: 3px solid var(--violet); outline-offset: -3px; }
  canvas { position: absolute; inset: 0; }
  .keys { position: absolute; clip-path: inset(50%); width: 1px; height: 1px; margin: 0; overflow: hidden; }
  .own-controls { position: absolute; z-index: 1; inset: 2.2rem 2.2rem 2.6rem; display: block; pointer-events: none; }
  .own-controls::slotted(*) { pointer-events: auto; }
  ${PIN_KEYS_STYLE}${NOTES_STYLE}${STRIP_STYLE}`;
}
