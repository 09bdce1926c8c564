import { fixFault, fixOf, type Fix, type RawFix } from './fix.js';

/**
 * The fix of a reading whose time and position are possible, without what beside them is not; `faults` tells of that.
 * For a time or position that cannot be there is no fix, only the fault.
 */
export function salvage(raw: RawFix): { readonly fix?: Fix; readonly faults: readonly string[] } {
  const fault = fixFault(raw);
  if (fault === undefined) return { fix: fixOf(raw), faults: [] };
  const { time, lat, lon } = raw;
  const bare: RawFix = { time, lat, lon };
  const worse = fixFault(bare);
  if (worse !== undefined) return { faults: [worse] };
  const faults: string[] = [];
  const kept = Object.entries(raw).filter(([name, value]) => {
    const wrong = fixFault({ ...bare, [name]: value as unknown });
    if (wrong !== undefined) faults.push(wrong);
    return wrong === undefined;
  });
  return { fix: fixOf({ ...bare, ...Object.fromEntries(kept) }), faults };
}
