import { readFileSync, writeFileSync } from 'node:fs';

/** Replaces the measured part of a docs page, between its two marks. */
export function renewMeasured(page: string, command: string, text: string): void {
  const file = new URL(`../docs/${page}`, import.meta.url);
  const [begin, end] = [`<!-- measured: ${command} -->`, '<!-- end of what was measured -->'];
  const whole = readFileSync(file, 'utf8');
  const before = whole.indexOf(begin);
  const after = whole.indexOf(end, before);
  if (before < 0 || after < before) throw new Error(`docs/${page} lacks ${begin} or ${end}`);
  writeFileSync(file, `${whole.slice(0, before)}${begin}\n\n${text}\n\n${whole.slice(after)}`);
}
