import {
  accuracyText,
  ageText,
  durationText,
  fencesFrom,
  lengthText,
  positionText,
  systemClock,
  type Clock,
} from 'aurelian-drift';
import { MapSheet } from 'aurelian-drift/map';
import {
  PartyWatch,
  membersOnMap,
  type Alarm,
  type Broker,
  type Member,
  type MemberState,
} from 'aurelian-drift/presence';
import { scaledClock } from 'aurelian-drift/testing';
import { load } from '../shared/island.js';
import { offerOwnMap, showGround } from '../shared/own-map.js';
import { button, element, field, piece, write } from '../shared/page.js';
import { PARTY, demoPassword, partyBroker } from '../shared/party.js';
import { tempoAsked } from '../shared/pretend.js';
import { pretendParty } from './pretend-party.js';
import { showWardenPanel } from './warden-panel.js';

/** Number of alarms and crossings that are listed. */
const SHOWN = 60;
/** The most urgent first. */
const ORDER: readonly MemberState[] = ['vanished', 'late', 'asleep', 'joined', 'still', 'moved', 'left'];
const MARKS: Readonly<Record<MemberState, string>> = {
  joined: '○',
  moved: '●',
  still: '●',
  asleep: '◌',
  late: '◐',
  vanished: '✕',
  left: '–',
};
const settings = new URLSearchParams(location.search);
const TEMPO = tempoAsked(20);

field('party').value = settings.get('party') ?? PARTY;
field('user').value = 'hut';
if (field('party').value === PARTY) field('password').value = demoPassword('hut');
element('enter').addEventListener('submit', (event) => {
  event.preventDefault();
  const broker = partyBroker(field('user').value, field('password').value);
  void watch(field('party').value, broker, systemClock);
});
button('use-pretend').addEventListener('click', () => void pretend());

const map = makeMap();
offerOwnMap(() => void map.then((sheet) => showGround(sheet)));
if (settings.has('pretend')) void pretend();

async function makeMap(): Promise<MapSheet> {
  const made = new MapSheet({
    container: element('map'),
    label: 'Map of the wardens',
    theme: 'auto',
    steering: 'free',
    controls: false,
    keepView: 'hut',
  });
  showGround(made);
  made.showFences(fencesFrom(await load('sections')));
  return made;
}

async function pretend(): Promise<void> {
  const clock = scaledClock(TEMPO, Date.now());
  const { broker, wardens } = await pretendParty(clock);
  showWardenPanel(wardens, clock);
  await watch(PARTY, broker, clock);
}

async function watch(party: string, broker: Broker, clock: Clock): Promise<void> {
  element('enter').hidden = true;
  const sheet = await map;
  const watching = new PartyWatch({ party, broker, clock, every: 0.2 });
  const clockText = (time: number) => new Date(time).toLocaleTimeString('en-GB');
  const nameOf = (id: string) => watching.$members.get().find((member) => member.id === id)?.name ?? id;

  watching.$link.subscribe((state) => {
    const words = {
      off: 'Not watching.',
      connecting: `Looking for ${broker.name}…`,
      up: `Watching the party ${party} since ${clockText(clock.now())}.`,
      down: `${'reason' in state ? state.reason : ''}. Trying again; what is shown is what was known before.`,
      refused: `${'reason' in state ? state.reason : ''}.`,
    }[state.state];
    write('link', words);
    for (const id of ['roster-part', 'alarms-part']) element(id).hidden = state.state === 'refused';
    if (state.state === 'refused') element('enter').hidden = false;
  });
  watching.$members.subscribe((members) => {
    const now = clock.now();
    sheet.layers.put('members', { kind: 'members', members: membersOnMap(members, now) });
    element('nobody').hidden = members.length > 0;
    showRoster(members, now, (member) => member.place !== undefined && sheet.look({ centre: member.place }));
    const { repeated: _, ...problems } = watching.dropped;
    const dropped = Object.values(problems).reduce((sum, count) => sum + count, 0);
    write('dropped', dropped === 0 ? '' : `${dropped} messages were dropped: ${list(problems)}.`);
  });
  button('all').addEventListener('click', () => {
    const places = watching.$members.get().flatMap(({ place }) => place ?? []);
    if (places.length > 0) sheet.frame(places);
  });
  watching.onEvent((event) => {
    if (event.kind === 'alarm') {
      const { alarm } = event;
      const grave = ['missed', 'off-plan', 'overdue'].includes(alarm.kind);
      const missed = alarm.kind === 'missed';
      log(missed ? clock.now() : alarm.time, nameOf(alarm.member), alarmText(alarm), grave);
      return;
    }
    const {
      kind,
      before,
      member: { name, since, place },
    } = event;
    if (kind === 'moved' || kind === 'still') {
      if (before === 'vanished' || before === 'late') log(since, name, 'is heard of again', false);
      if (before === 'vanished') write('trouble', '');
      return;
    }
    const words = {
      joined: 'shares',
      asleep: 'is asleep: the device rests',
      late: 'is late: no sign of life',
      vanished: 'has vanished',
      left: 'has left',
    }[kind];
    log(since, name, words, kind === 'vanished');
    if (kind === 'vanished')
      write(
        'trouble',
        `${name} has vanished` +
          (place === undefined ? '.' : `, last seen ${positionText(place)} at ${clockText(place.time)}.`),
      );
  });
  function log(time: number, name: string, words: string, grave: boolean): void {
    const line = piece('li', '', grave ? 'grave' : '');
    line.append(piece('span', clockText(time)), piece('span', name), piece('span', words));
    element('alarms').prepend(line);
    while (element('alarms').children.length > SHOWN) element('alarms').lastElementChild?.remove();
  }
}

function alarmText({ kind, name = '', duration, time }: Alarm): string {
  switch (kind) {
    case 'missed':
      return `gave no sign of life since ${new Date(time).toLocaleTimeString('en-GB')}`;
    case 'back':
      return 'is back';
    case 'initial':
      return `is in ${name}`;
    case 'enter':
      return `into ${name}`;
    case 'pass':
      return `through ${name}`;
    case 'linger':
      return `still in ${name}`;
    case 'closed':
      return `no longer watched: ${name}`;
    case 'off-plan':
      return `left the plan ${name}`.trimEnd();
    case 'on-plan':
      return `is back on the plan ${name}`.trimEnd();
    case 'overdue':
      return `is overdue at ${name}`;
    case 'finished':
      return `finished the plan ${name}`.trimEnd();
    case 'exit':
      return `out of ${name}${duration === undefined ? '' : ` after ${durationText(duration)}`}`;
  }
}

/** Rows keep their elements from one state to the next, so that a finger or a screen reader keeps its position. */
const rows = new Map<string, HTMLButtonElement>();

function showRoster(members: readonly Member[], now: number, choose: (member: Member) => void): void {
  const sorted = [...members].sort(
    (a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state) || (a.id < b.id ? -1 : 1),
  );
  for (const [id, row] of rows) {
    if (members.some((member) => member.id === id)) continue;
    row.parentElement?.remove();
    rows.delete(id);
  }
  sorted.forEach((member, i) => {
    const row = rows.get(member.id) ?? newRow(member.id);
    row.className = member.state;
    row.onclick = () => choose(member);
    const [mark, who, how, more] = [...row.children] as [HTMLElement, HTMLElement, HTMLElement, HTMLElement];
    set(mark, MARKS[member.state]);
    set(who, member.name);
    set(how, howText(member, now));
    set(more, moreText(member, now));
    const list = element('roster');
    const item = row.parentElement as HTMLElement;
    if (list.children[i] !== item) list.insertBefore(item, list.children[i] ?? null);
  });
}

function newRow(id: string): HTMLButtonElement {
  const row = document.createElement('button');
  row.type = 'button';
  row.append(
    piece('span', '', 'mark'),
    piece('span', '', 'who'),
    piece('span', '', 'how'),
    piece('span', '', 'more'),
  );
  row.firstElementChild?.setAttribute('aria-hidden', 'true');
  const item = piece('li', '');
  item.append(row);
  rows.set(id, row);
  return row;
}

function set(target: HTMLElement, text: string): void {
  if (target.textContent !== text) target.textContent = text;
}

function howText({ state, since, veiled }: Member, now: number): string {
  const clock = new Date(since).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
  if (veiled && state !== 'vanished') return 'in a private area';
  if (state === 'moved') return 'on the move';
  return now - since < 60_000 ? state : `${state} since ${clock}`;
}

function moreText({ place, rounding, seen, until, goneAt }: Member, now: number): string {
  const parts = [
    place === undefined ? 'no place yet' : `${positionText(place)} ${accuracyText(place.accuracy)}`.trim(),
    ...(rounding === undefined ? [] : [`rounded to ${lengthText(rounding)}`]),
    now - seen > 60_000 ? `heard ${ageText((now - seen) / 1000)}` : '',
    ...(until === undefined
      ? []
      : [`until ${new Date(until).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })}`]),
    ...(goneAt === undefined
      ? []
      : [
          `place kept until ${new Date(goneAt).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })}`,
        ]),
  ];
  return parts.filter((part) => part !== '').join(' · ');
}

function list(counts: Readonly<Record<string, number>>): string {
  return Object.entries(counts)
    .filter(([, count]) => count > 0)
    .map(([reason, count]) => `${count} ${reason}`)
    .join(', ');
}
