import type { MapMember as MemberOnMap } from '../scene/layers/members.js';
import type { Member } from './roster.js';

/** The members of a roster that have a place, as a map shows them: a layer of the kind `members`. */
export function membersOnMap(members: readonly Member[], now: number): MemberOnMap[] {
  return members.flatMap(({ id, name, state, seen, place, trail, veiled }) => {
    if (place === undefined || state === 'left') return [];
    const present = state === 'joined' || state === 'moved' || state === 'still';
    const { lat, lon, accuracy, time } = place;
    // Who is still is where they were; of others the place is as old as it is.
    const known = state === 'still' && !veiled ? seen : Math.min(seen, time);
    const age = Math.max(0, now - known) / 1000;
    return [{ id, name, lat, lon, accuracy, age, state: present ? 'present' : state, trail }];
  });
}
