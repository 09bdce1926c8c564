/*
 * npm run true-path: measures the filter under every reception, and updates the table and the picture of
 * docs/true-path.md.
 */
import { writeFileSync } from 'node:fs';
import { renewMeasured } from './page.js';
import { measureReceptions, type Measured } from './filter.js';
import { pathPicture } from './path-picture.js';

const PICTURE = new URL('../docs/screenshots/true-path.png', import.meta.url);

function tableOf(all: readonly Measured[]): string {
  const metres = (value: number) => `${value.toFixed(2)} m`;
  const percent = (share: number) => `${share < 0 ? '−' : '+'}${Math.abs(100 * share).toFixed(1)} %`;
  const rows: readonly (readonly [string, (each: Measured) => string])[] = [
    ['error of the fixes', ({ raw }) => metres(raw)],
    ['of a plain mean of 9', ({ mean }) => metres(mean)],
    ['**filtered live**', ({ live }) => `**${metres(live)}**`],
    ['a filter told the true noise', ({ referenceLive }) => metres(referenceLive)],
    ['**smoothed**', ({ later }) => `**${metres(later)}**`],
    ['a smoother told the true noise', ({ referenceLater }) => metres(referenceLater)],
    ['worst walk, beside its fixes', ({ worst }) => `${worst.toFixed(2)} ×`],
    ['raw sum of distance', ({ rawSum }) => percent(rawSum)],
    ['of the mean of 9', ({ meanSum }) => percent(meanSum)],
    ['**honest distance, off by**', ({ honest }) => `**${(100 * honest).toFixed(1)} %**`],
    ['at worst', ({ honestWorst }) => `${(100 * honestWorst).toFixed(1)} %`],
    ['length of the path smoothed', ({ pathSum }) => percent(pathSum)],
    ['ten minutes of standing add, at most', ({ standing }) => `${standing.toFixed(0)} m`],
    ['raw', ({ standingRaw }) => `${standingRaw.toFixed(0)} m`],
  ];
  return [
    `| | ${all.map(({ reception }) => `\`${reception}\``).join(' | ')} |`,
    `| --- |${all.map(() => ' ---: |').join('')}`,
    ...rows.map(([name, reported]) => `| ${name} | ${all.map(reported).join(' | ')} |`),
  ].join('\n');
}

const measured = measureReceptions();
const table = tableOf(measured);
renewMeasured('true-path.md', 'npm run true-path', table);
writeFileSync(PICTURE, pathPicture());
console.log(table);
