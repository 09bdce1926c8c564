import { fixProblem, fixFrom, type Fix, type RawFix } from './fix.js';

/**
 * Makes a fix from data whose time and position are possible, without the impossible other fields, which are listed in
 * `problems`. For an impossible time or position there is no fix, only the problem.
 */
export function salvage(raw: RawFix): { readonly fix?: Fix; readonly problems: readonly string[] } {
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
