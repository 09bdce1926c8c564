/** Colours of the sheet: for the day, for the dusk, or for a printer. */
export const THEMES = ['day', 'dusk', 'print'] as const;
/** Colours of a map. */
export type Theme = (typeof THEMES)[number];

type Rgb = readonly [number, number, number];

/** Colour of dark paper: near black, with violet. */
const NIGHT: Rgb = [33, 30, 44];
const MOON: Rgb = [226, 218, 206];

const known = new Map<string, string>();

/**
 * Converts a colour of the day (`#rrggbb`) to another theme. At dusk, light and dark are exchanged on a violet night,
 * and colours keep their hue; for a printer paper is white, and areas are pale.
 */
export function themed(colour: string, theme: Theme): string {
  if (theme === 'day') return colour;
  const key = theme + colour;
  const made = known.get(key) ?? hex(theme === 'dusk' ? atDusk(rgb(colour)) : onPaper(rgb(colour)));
  known.set(key, made);
  return made;
}

/** Perceived lightness, 0…1 (Rec. 709 luma). */
function lightness([r, g, b]: Rgb): number {
  return (0.2126 * r + 0.7152 * g + 0.0722 * b) / 255;
}

function atDusk(day: Rgb): Rgb {
  const light = lightness(day);
  // Paper and ground become dark, with a part of their hue.
  if (light > 0.55) return mix(NIGHT, day, 0.02 + (1 - light) * 0.9);
  // Strong colours are signs: they stay, and become lighter if necessary. Ink becomes moonlight.
  const vivid = (Math.max(...day) - Math.min(...day)) / 255;
  const sign = mix(day, MOON, light < 0.33 ? 0.62 : light < 0.42 ? 0.4 : 0.06);
  const ink = mix(NIGHT, MOON, 0.35 + (1 - light) * 0.65);
  return mix(ink, sign, Math.max(0, Math.min(1, (vivid - 0.08) / 0.14)));
}

function onPaper(day: Rgb): Rgb {
  const light = lightness(day);
  return light > 0.6
    ? mix(day, [255, 255, 255], 0.55 + 0.45 * Math.min(1, (light - 0.6) / 0.3))
    : mix(day, [0, 0, 0], 0.25);
}

function mix(from: Rgb, to: Rgb, share: number): Rgb {
  return [0, 1, 2].map(
    (i) => (from[i] as number) + ((to[i] as number) - (from[i] as number)) * share,
  ) as unknown as Rgb;
}

function rgb(colour: string): Rgb {
  return [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16)) as unknown as Rgb;
}

function hex(colour: Rgb): string {
  return `#${colour
    .map((part) =>
      Math.round(Math.max(0, Math.min(255, part)))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}
