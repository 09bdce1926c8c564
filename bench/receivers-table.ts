/* npm run receivers: measures fixes without a speed, and updates the table of docs/true-path.md. */
import { liveFigures, type LiveFigures } from './live-figures.js';
import { renewMeasured } from './page.js';
import { KINDS, NOTHING, STEPS, figuresOf, standingOf, type Figures } from './receivers.js';

const RESTS = { every: 700, for: 300 };
const percent = (share: number) => `${(100 * share).toFixed(1)} %`;

const steps = Object.entries(STEPS);
const measured = KINDS.map((reception) => ({
  reception,
  foot: steps.map(([name, step]) => ({
    name,
    figures: figuresOf({ reception, rests: RESTS, ...step }, NOTHING),
  })),
  cycle: figuresOf({ reception, gait: 'cycle', rests: RESTS }, NOTHING),
  drive: figuresOf({ reception, gait: 'drive', rests: RESTS }, NOTHING),
  standing: standingOf(reception, {}),
  stated: liveFigures(reception, 'true'),
  bare: liveFigures(reception, 'absent'),
}));

const footRow = (title: string, step: number, read: (figures: Figures) => string): [string, string[]] => [
  `${title}, a fix every ${steps[step]?.[0] ?? ''}`,
  measured.map(({ foot }) => {
    const each = foot[step];
    return each === undefined ? '' : read(each.figures);
  }),
];

const rows: [string, string[]][] = [
  footRow('raw sum of distance', 0, ({ raw }) => `+${percent(raw)}`),
  ...steps.map((_, i) => footRow('**distance**, off by', i, ({ distance }) => `**${percent(distance)}**`)),
  footRow('at worst', 0, ({ distanceWorst }) => percent(distanceWorst)),
  ...steps.map((_, i) => footRow('time in motion, off by', i, ({ moving }) => percent(moving))),
  ...steps.map((_, i) => footRow('stops wrong', i, ({ wrongStops, stops }) => `${wrongStops} of ${stops}`)),
  ...steps.map((_, i) => footRow('top speed, off by', i, ({ top }) => percent(top))),
  ['cycling: distance, off by', measured.map(({ cycle }) => percent(cycle.distance))],
  ['driving: distance, off by', measured.map(({ drive }) => percent(drive.distance))],
  ['half an hour of standing: raw sum', measured.map(({ standing }) => `${standing.raw.toFixed(0)} m`)],
  ['**distance**', measured.map(({ standing }) => `**${standing.metres.toFixed(0)} m**`)],
  ['at worst', measured.map(({ standing }) => `${standing.most.toFixed(0)} m`)],
];

const whole = (share: number) => `${(100 * share).toFixed(0)} %`;
const liveRow = (name: string, read: (of: { stated: LiveFigures; bare: LiveFigures }) => string) =>
  [name, measured.map(read)] as const;
const live = [
  liveRow('filtered place within its stated radius, with speeds', ({ stated }) => whole(stated.inside)),
  liveRow('radius by median error', ({ stated }) => (stated.radius / stated.error).toFixed(2)),
  liveRow('the same without speeds: within the radius', ({ bare }) => whole(bare.inside)),
  liveRow('radius by median error', ({ bare }) => (bare.radius / bare.error).toFixed(2)),
  liveRow('**derived speed**, off by', ({ bare }) => `**${whole(bare.speed)}**`),
  liveRow('**derived course**, off by', ({ bare }) => `**${bare.course.toFixed(0)}°**`),
  liveRow('known in motion', ({ bare }) => whole(bare.known)),
  liveRow('speeds within their stated error', ({ bare }) => whole(bare.within)),
  liveRow('shown at rest', ({ bare }) => whole(bare.shownAtRest)),
];

const tableOf = (content: readonly (readonly [string, readonly string[]])[]) =>
  [
    `| | ${measured.map(({ reception }) => `\`${reception}\``).join(' | ')} |`,
    `| --- |${measured.map(() => ' ---: |').join('')}`,
    ...content.map(([name, cells]) => `| ${name} | ${cells.join(' | ')} |`),
  ].join('\n');

renewMeasured('true-path.md', 'npm run receivers', tableOf(rows));
renewMeasured('true-path.md', 'npm run receivers, live', tableOf(live));
