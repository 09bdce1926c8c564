/*
 * npm run true-crossings: reported crossings beside the true ones, under every reception, for the table of
 * docs/fences.md.
 */
import { crossingsUnder, type Reported } from './crossing-truth.js';
import { renewMeasured } from './page.js';

const measured: readonly Reported[] = (['open', 'trees', 'street', 'deep'] as const)
  .map((reception) => crossingsUnder(reception))
  .concat(
    crossingsUnder('open', 20),
    crossingsUnder('street', 20),
    crossingsUnder('open', 60),
    crossingsUnder('street', 60),
  );

const rows: readonly (readonly [string, (each: Reported) => string])[] = [
  ['true crossings', (each) => String(each.true)],
  ['left out: grazes', (each) => String(each.grazes)],
  ['left out: no fix saw them', (each) => String(each.unseen)],
  ['**reported, once each**', (each) => `**${each.true - each.missed}**`],
  ['worst walk: not reported', (each) => String(each.worstMissed)],
  ['**reported wrongly**', (each) => `**${each.false}**`],
  ['worst walk: reported wrongly', (each) => String(each.worstFalse)],
  ['of the grazes reported', (each) => String(each.grazesReported)],
  ['**error of time, of place**', (each) => `**${each.time.toFixed(1)} s, ${each.place.toFixed(1)} m**`],
  ['the plain rule: reported wrongly', (each) => String(each.plainFalse)],
  ['not reported', (each) => String(each.plainMissed)],
  ['error of time, of place', (each) => `${each.plainTime.toFixed(1)} s, ${each.plainPlace.toFixed(1)} m`],
];
const heads = measured.map(
  ({ reception, every }) => `\`${reception}\`${every === 1 ? '' : `, every ${every} s`}`,
);
const table = [
  `| | ${heads.join(' | ')} |`,
  `| --- |${measured.map(() => ' ---: |').join('')}`,
  ...rows.map(([name, reported]) => `| ${name} | ${measured.map(reported).join(' | ')} |`),
].join('\n');
renewMeasured('fences.md', 'npm run true-crossings', table);
console.log(table);
