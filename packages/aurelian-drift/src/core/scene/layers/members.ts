import { list } from '../../check/options.js';
import { boundsOf } from '../../geodesy/bounds.js';
import type { Position } from '../../geodesy/position.js';
import type { Camera } from '../camera.js';
import type { LayerKind } from '../layer-kind.js';
import { LOOK, blend } from '../look.js';
import type { MapWords } from '../map-words.js';
import type { Layer, Step } from '../scene.js';
import type { LabelRoom } from './label-room.js';

/** Another person on the map. */
export interface MapMember extends Position {
  readonly id: string;
  readonly name: string;
  /** Seconds since the last sign of life; shown in words when it is over a minute. */
  readonly age?: number;
  readonly state?: 'present' | 'late' | 'asleep' | 'vanished';
  /** Accuracy in metres; shown as a ring where it is wider than the half-moon. */
  readonly accuracy?: number | undefined;
  /** Earlier positions, oldest first. */
  readonly trail?: readonly Position[];
}

/** Radius of a half-moon in pixels. */
const MOON = 9;
/** Radius in pixels from which a ring is drawn. */
const RING = 14;

/** Other members: violet half-moons with their names, a form for each state, and the age of the last sign of life. */
export function membersLayer(
  members: readonly MapMember[],
  camera: Camera,
  room: LabelRoom,
  words: MapWords,
): Layer {
  const placed = members.map((member) => ({ member, at: camera.pixelOf(member) }));
  const seen = placed.filter(
    ({ at: { x, y } }) => x >= -20 && y >= -20 && x <= camera.width + 20 && y <= camera.height + 20,
  );
  // Names do not cover other members.
  for (const { at } of seen) room.take(at.x - MOON - 2, at.y - MOON - 2, 2 * MOON + 4, MOON + 8);
  return {
    id: 'members',
    steps: [
      ...placed.flatMap(({ member }) => trailSteps(member, camera)),
      ...seen.flatMap(({ member, at }) => ringSteps(member, at.x, at.y, camera)),
      ...seen.flatMap(({ member, at }) => moonSteps(member, at.x, at.y)),
      ...seen.flatMap(({ member, at }) =>
        room.place(labelOf(member, words), at.x, at.y + 20, { from: 0, size: 12.5, weight: 600 }),
      ),
    ],
  };
}

/** Name and state, with the age of a sign of life that is over a minute old. */
function labelOf({ name, state = 'present', age = 0 }: MapMember, words: MapWords): string {
  const of = state === 'present' ? [] : [words.texts.states[state]];
  return [name, ...of, ...(age > 60 ? [words.format.age(age)] : [])].join(', ');
}

function colourOf({ state }: MapMember): string {
  if (state === 'vanished') return LOOK.alert;
  return state === 'late' ? blend(LOOK.violet, LOOK.parchment, 0.4) : LOOK.violet;
}

function trailSteps(member: MapMember, camera: Camera): Step[] {
  const way = [...(member.trail ?? []), member].map((at) => camera.pixelOf(at));
  if (way.length < 2) return [];
  const ring = way.flatMap(({ x, y }) => [x, y]);
  const colour = blend(colourOf(member), LOOK.parchment, 0.25);
  return [
    { kind: 'shape', rings: [ring], closed: false, stroke: { colour: LOOK.parchment, width: 4 } },
    { kind: 'shape', rings: [ring], closed: false, stroke: { colour, width: 1.8 } },
  ];
}

function ringSteps(member: MapMember, x: number, y: number, camera: Camera): Step[] {
  const radius = (member.accuracy ?? 0) / camera.metresPerPixelAt(member.lat);
  if (radius <= RING) return [];
  const colour = blend(colourOf(member), LOOK.parchment, 0.3);
  const fill = { colour, spacing: 6, width: 0.6, angle: -30 };
  return [{ kind: 'disc', x, y, radius, fill, stroke: { colour, width: 1.1 } }];
}

function moonSteps(member: MapMember, x: number, y: number): Step[] {
  const { state } = member;
  const colour = colourOf(member);
  const half = Array.from({ length: 13 }, (_, i) => [
    x + MOON * Math.cos((i * Math.PI) / 12),
    y + 3 - MOON * Math.sin((i * Math.PI) / 12),
  ]).flat();
  const rim: Step = {
    kind: 'shape',
    rings: [half],
    closed: true,
    stroke: { colour: LOOK.parchment, width: 4.5 },
  };
  if (state === 'asleep')
    return [
      rim,
      { kind: 'shape', rings: [half], closed: true, fill: LOOK.parchment, stroke: { colour, width: 2 } },
    ];
  const dash = state === 'late' ? { dash: [3, 2.5] } : {};
  const moon: Step = {
    kind: 'shape',
    rings: [half],
    closed: true,
    fill: colour,
    stroke: { colour: LOOK.ink, width: 1.3, ...dash },
  };
  if (state !== 'vanished') return [rim, moon];
  // Struck out.
  const stroke = [x - MOON - 3, y + 6, x + MOON + 3, y - MOON];
  return [
    rim,
    moon,
    { kind: 'shape', rings: [stroke], closed: false, stroke: { colour: LOOK.parchment, width: 5 } },
    { kind: 'shape', rings: [stroke], closed: false, stroke: { colour: LOOK.alertText, width: 2.2 } },
  ];
}

/** Other members of a party. */
export interface MembersLayer {
  readonly kind: 'members';
  readonly members: readonly MapMember[];
}

export const MEMBERS: LayerKind<MembersLayer> = {
  kind: 'members',
  options: { members: list },
  prepare: ({ members }) => ({
    over: (camera, room, words) => [membersLayer(members, camera, room, words)],
    bounds: () => boundsOf(members),
    describe: (_camera, { texts }) => {
      const names = members.map(({ name, state = 'present' }) =>
        state === 'present' ? name : `${name} ${texts.states[state]}`,
      );
      return [{ item: 'members', count: members.length, names }];
    },
  }),
  change: () => 'over',
};
