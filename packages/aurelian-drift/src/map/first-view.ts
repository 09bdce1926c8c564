import type { MapSheetOptions } from './map-options.js';
import type { SheetView, ViewStart } from './sheet-view.js';
import type { KeptView, ViewMemory } from './view-memory.js';

/** How the view of a map begins: as the app chose, else as it was stored. */
export function firstView(
  options: MapSheetOptions,
  memory: ViewMemory | undefined,
): Pick<ConstructorParameters<typeof SheetView>[0], 'mode' | 'steering' | 'chosen' | 'memory'> {
  const { steering = 'centred', bounds } = options;
  const kept = memory?.read();
  const chosen: ViewStart['chosen'] = {
    ...(bounds !== undefined && { bounds }),
    ...kept,
    ...partsOf(options),
  };
  return { mode: kept === undefined ? steering : 'free', steering: options, chosen, memory };
}

/** The parts of a view in the options. */
function partsOf({ centre, zoom, turn }: MapSheetOptions): Partial<KeptView> {
  return {
    ...(centre !== undefined && { centre }),
    ...(zoom !== undefined && { zoom }),
    ...(turn !== undefined && { turn }),
  };
}
