/** The colours of the house: a field notebook and an engraved chart. */
export const LOOK = Object.freeze({
  parchment: '#f5e8d2',
  ink: '#2b2a33',
  gold: '#b8791a',
  goldText: '#6e430a',
  violet: '#5b4a8a',
  scrub: '#c9c193',
  meadow: '#dfd9a6',
  woods: '#b3b58f',
  heath: '#cdb3ae',
  dune: '#ecd3b5',
  water: '#b7c6c6',
  /** Engraved lines in the water: ink seen through it. */
  shore: '#8ea3a5',
  contour: '#c3b48a',
  lane: '#fbf4e6',
  alert: '#a63a2b',
  alertText: '#7f241b',
});

/** A colour between two, `share` 0…1 from the first to the second. */
export function blend(from: string, to: string, share: number): string {
  const part = (colour: string, i: number) => parseInt(colour.slice(1 + 2 * i, 3 + 2 * i), 16);
  const mixed = [0, 1, 2].map((i) => Math.round(part(from, i) + (part(to, i) - part(from, i)) * share));
  return `#${mixed.map((value) => value.toString(16).padStart(2, '0')).join('')}`;
}
