import { LOOK } from '../core/scene/look.js';
import { FONT_STACK } from '../core/scene/svg.js';
import { themed, type Theme } from '../core/scene/theme.js';
import { ANCHORS_STYLE } from './anchors.js';
import { NOTES_STYLE } from './notes.js';
import { PIN_KEYS_STYLE } from './pin-keys.js';
import { STRIP_STYLE } from './strip.js';

/**
 * The style of a map, as a constructed style sheet: a content security policy that forbids inline styles allows it. An
 * app may set the colours by their names with `--aurelian-` before them.
 */
export class SheetStyle {
  readonly #sheet: CSSStyleSheet;

  /** @param root shadow of the container, which takes the style. */
  constructor(root: ShadowRoot) {
    // A style sheet belongs to one document: the container may be in another window.
    const { CSSStyleSheet: Sheet } = root.ownerDocument.defaultView ?? window;
    this.#sheet = new Sheet();
    root.adoptedStyleSheets = [this.#sheet];
  }

  set theme(theme: Theme) {
    this.#sheet.replaceSync(rules(theme));
  }
}

const COLOURS: Readonly<Record<string, string>> = {
  ink: LOOK.ink,
  parchment: LOOK.parchment,
  paper: LOOK.lane,
  sand: LOOK.dune,
  gold: LOOK.gold,
  violet: LOOK.violet,
  faint: '#8b8373',
};

function rules(theme: Theme): string {
  const variables = Object.entries(COLOURS)
    .map(([name, colour]) => `--${name}: var(--aurelian-${name}, ${themed(colour, theme)});`)
    .join(' ');
  return `
  :host { display: block; position: relative; background: var(--parchment); container-type: inline-size;
    --font: var(--aurelian-font, ${FONT_STACK}); ${variables} }
  :host([hidden]) { display: none; }
  .sheet { position: absolute; inset: 0; box-sizing: border-box; padding: inherit; display: flex;
    flex-direction: column; }
  .frame { position: relative; flex: 1; min-height: 0; }
  .stage { position: absolute; inset: 0; overflow: hidden; touch-action: none; cursor: grab; user-select: none;
    -webkit-user-select: none; font-family: var(--font); }
  .stage.shared { touch-action: pan-x pan-y; }
  .stage:has([data-kind='no-size']) { overflow: visible; }
  .stage:active { cursor: grabbing; }
  .stage:focus-visible { outline: 3px solid var(--violet); outline-offset: -3px; }
  canvas { position: absolute; inset: 0; }
  .unseen { position: absolute; clip-path: inset(50%); width: 1px; height: 1px; margin: 0; overflow: hidden; }
  .own-controls { position: absolute; z-index: 1; inset: 2.2rem 2.2rem 2.6rem; display: block; pointer-events: none; }
  .own-controls::slotted(*) { pointer-events: auto; }
  .own-controls::slotted(aurelian-pin), .own-controls::slotted(aurelian-fence) { display: none; }
  ${ANCHORS_STYLE}${PIN_KEYS_STYLE}${NOTES_STYLE}${STRIP_STYLE}
  @media print {
    .strip { display: none; }
    canvas { width: 100% !important; height: 100% !important; object-fit: contain; }
  }
  @media (forced-colors: active) {
    .stage, .frame { forced-color-adjust: none; }
  }`;
}
