import type { Fix } from '../core/fix/fix.js';
import { accuracyText, lengthText, positionText } from '../core/fix/words.js';
import type { Position } from '../core/geodesy/position.js';
import type { Camera } from '../core/scene/camera.js';
import type { Pin } from '../core/scene/layers/pins.js';
import type { MapLayer } from './layer-stack.js';

/** Names that are told one by one; more are counted. */
const TOLD = 5;

/** What a map shows, in words, for whoever does not see it. */
export function describeMap(
  label: string,
  camera: Camera | undefined,
  fix: Fix | undefined,
  layers: readonly (MapLayer | undefined)[],
  pins: readonly Pin[],
): string {
  const inside = layers.flatMap((layer) =>
    layer?.kind === 'fences'
      ? layer.fences.filter(({ id }) => layer.paint?.inside?.has(id) === true).map(({ name }) => name)
      : [],
  );
  const seen = camera === undefined ? [] : pins.filter((pin) => sees(camera, pin));
  const members = layers.flatMap((layer) => (layer?.kind === 'members' ? layer.members : []));
  return [
    label,
    fix === undefined
      ? 'own place not known yet'
      : `own place ${positionText(fix)} ${accuracyText(fix.accuracy)}`.trim(),
    ...(camera === undefined
      ? []
      : [
          `${lengthText(camera.metresPerPixel * camera.width)} across, centre ${positionText(camera.centre)}`,
        ]),
    ...(inside.length > 0 ? [`inside ${inside.join(', ')}`] : []),
    ...listed(
      'pin',
      'pins',
      seen.map((pin) => pin.text ?? 'without text'),
    ),
    ...listed(
      'member',
      'members',
      members.map(({ name, state = 'present' }) => (state === 'present' ? name : `${name} ${state}`)),
    ),
  ].join('; ');
}

function listed(one: string, many: string, names: readonly string[]): string[] {
  if (names.length === 0) return [];
  const told = names.slice(0, TOLD).join(', ');
  const rest = names.length > TOLD ? ', …' : '';
  return [`${names.length} ${names.length === 1 ? one : many}: ${told}${rest}`];
}

function sees(camera: Camera, at: Position): boolean {
  const { x, y } = camera.pixelOf(at);
  return x >= 0 && y >= 0 && x <= camera.width && y <= camera.height;
}
