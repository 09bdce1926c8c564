import {
  accuracyText,
  durationText,
  lengthText,
  motionText,
  positionText,
  speedText,
  type Crossing,
  type Fix,
  type FollowStatus,
  type Motion,
  type Summary,
} from 'aurelian-drift';
import { element, write } from '../shared/page.js';

/* The field book beside the map: the elements it writes to. */

export function writeFix(fix: Fix): void {
  write('position', positionText(fix));
  write('accuracy', accuracyText(fix.accuracy) || '–');
}

/** Speed and course; where the fixes state none, those that their positions show, with their uncertainty. */
export function writeMotion(motion: Motion | undefined): void {
  const { speed, course } = motionText(motion);
  write('speed', speed);
  write('course', course);
}

export function writeSummary({ distance, duration, averageSpeed, fixes }: Summary): void {
  write('distance', fixes === 0 ? '–' : lengthText(distance));
  write('duration', duration === undefined ? '–' : durationText(duration));
  write('average', averageSpeed === undefined ? '–' : speedText(averageSpeed));
  write('fixes', fixes === 0 ? '–' : String(fixes));
}

/** The status of the follow as a text; `since` is when following began. */
export function writeStanding(state: FollowStatus, since: number): void {
  const clock = (time: number) => new Date(time).toLocaleTimeString('en-GB');
  const words: Readonly<Record<FollowStatus['state'], string>> = {
    waiting: 'Waiting for the first fix.',
    live: `Following since ${clock(since)}.`,
    still: state.state === 'still' ? `Following; at rest since ${clock(state.since)}.` : '',
    silent: state.state === 'silent' ? `No fix since ${clock(state.since)}.` : '',
    paused: 'Paused while the page is hidden.',
    failed: 'Following has ended.',
    stopped: 'Not following.',
    ended: 'The walk has ended.',
  };
  write('standing', words[state.state]);
}

export function writeCrossing({ kind, name, time, duration }: Crossing, closed: boolean): void {
  const line = document.createElement('li');
  line.classList.toggle('closed', closed);
  const words = {
    initial: 'in',
    enter: 'into',
    exit: 'out of',
    linger: 'still in',
    pass: 'through',
    closed: 'no longer watched:',
  }[kind];
  const cells = [
    new Date(time).toLocaleTimeString('en-GB'),
    `${words} ${name}`,
    duration === undefined ? '' : durationText(duration),
  ];
  line.append(
    ...cells.map((text) => {
      const cell = document.createElement('span');
      cell.textContent = text;
      return cell;
    }),
  );
  element('log').prepend(line);
}
