import { fixProblem, fixFrom, type Fix, type RawFix } from './fix.js';

/** Fields that cannot be negative. */
const MEASURED = ['accuracy', 'altitudeAccuracy', 'course', 'speed'] as const;

/**
 * Makes a fix from data whose time and position are possible, without the impossible other fields, which are listed in
 * `problems`. For an impossible time or position there is no fix, only the problem.
 *
 * A −1 in a field that cannot be negative is no problem: platforms write it for an unknown value. An altitude whose
 * accuracy is −1 is unknown too.
 */
export function salvage(data: RawFix): { readonly fix?: Fix; readonly problems: readonly string[] } {
  const raw = withoutUnknown(data);
  const problem = fixProblem(raw);
  if (problem === undefined) return { fix: fixFrom(raw), problems: [] };
  const { time, lat, lon } = raw;
  const bare: RawFix = { time, lat, lon };
  const worse = fixProblem(bare);
  if (worse !== undefined) return { problems: [worse] };
  const problems: string[] = [];
  const kept = Object.entries(raw).filter(([name, value]) => {
    const wrong = fixProblem({ ...bare, [name]: value as unknown });
    if (wrong !== undefined) problems.push(wrong);
    return wrong === undefined;
  });
  return { fix: fixFrom({ ...bare, ...Object.fromEntries(kept) }), problems };
}

function withoutUnknown(raw: RawFix): RawFix {
  if (!MEASURED.some((name) => (raw as Partial<RawFix> | null)?.[name] === -1)) return raw;
  const known = MEASURED.map((name) => [name, raw[name] === -1 ? undefined : raw[name]]);
  const altitude = raw.altitudeAccuracy === -1 ? undefined : raw.altitude;
  return { ...raw, altitude, ...(Object.fromEntries(known) as Partial<RawFix>) };
}
