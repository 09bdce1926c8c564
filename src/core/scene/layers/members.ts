import { ageText } from '../../fix/words.js';
import type { Position } from '../../geodesy/position.js';
import type { Camera } from '../camera.js';
import { LOOK, blend } from '../look.js';
import type { Layer, Step } from '../scene.js';
import type { LabelRoom } from './label-room.js';

/** Somebody else on the map. */
export interface Member extends Position {
  readonly id: string;
  readonly name: string;
  /** Seconds since the last sign of life; told in words once it is over a minute. */
  readonly age?: number;
  readonly state?: 'present' | 'late' | 'asleep' | 'vanished';
}

/** Other members: violet half-moons with their names, faded by how long ago they were heard of. */
export function membersLayer(members: readonly Member[], camera: Camera, room: LabelRoom): Layer {
  const steps = members.flatMap((member): Step[] => {
    const { x, y } = camera.pixelOf(member);
    if (x < -20 || y < -20 || x > camera.width + 20 || y > camera.height + 20) return [];
    const { state = 'present', age = 0 } = member;
    const faded = state === 'present' ? 0 : state === 'vanished' ? 0.65 : 0.4;
    const colour = blend(state === 'vanished' ? LOOK.alert : LOOK.violet, LOOK.parchment, faded);
    const half = Array.from({ length: 13 }, (_, i) => [
      x + 9 * Math.cos((i * Math.PI) / 12),
      y + 3 - 9 * Math.sin((i * Math.PI) / 12),
    ]).flat();
    const words = [
      member.name,
      ...(state === 'present' ? [] : [state]),
      ...(age > 60 ? [ageText(age)] : []),
    ].join(', ');
    return [
      { kind: 'shape', rings: [half], closed: true, stroke: { colour: LOOK.parchment, width: 4 } },
      { kind: 'shape', rings: [half], closed: true, fill: colour, stroke: { colour: LOOK.ink, width: 1.3 } },
      ...room.place(words, x, y + 18, { from: 0, size: 12.5, weight: 600 }),
    ];
  });
  return { id: 'members', steps };
}
