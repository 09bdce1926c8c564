import type { MapMember as MemberOnMap } from '../scene/layers/members.js';
import type { Member } from './roster.js';

/** The members of a roster that have a place, for a layer of kind `members`. */
export function membersOnMap(members: readonly Member[], now: number): MemberOnMap[] {
  return members.flatMap(({ id, name, state, seen, place, trail, veiled }) => {
    if (place === undefined || state === 'left') return [];
    const present = state === 'joined' || state === 'moved' || state === 'still';
    const { lat, lon, accuracy, time } = place;
    // The place of a member that is still is current; others have a place as old as its time.
    const known = state === 'still' && !veiled ? seen : Math.min(seen, time);
    const age = Math.max(0, now - known) / 1000;
    return [{ id, name, lat, lon, accuracy, age, state: present ? 'present' : state, trail }];
  });
}
