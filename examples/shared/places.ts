import type { Fix } from 'aurelian-drift';
import {
  Gazetteer,
  PlaceLookUp,
  httpPlaces,
  placesFrom,
  gazetteerPlaces,
  type PlaceAnswer,
  type PlaceReading,
  type PlaceService,
} from 'aurelian-drift/places';
import { load, onceMade } from './island.js';

/** Metres from the island beyond which its places are no useful answer. */
const ELSEWHERE = 50_000;

const island = onceMade(async () => {
  const { places, language } = placesFrom(await load('places'));
  return gazetteerPlaces(new Gazetteer(places, language === undefined ? {} : { language }));
});

/** The service that ?places= names, if any. */
export function serviceAddress(): string | undefined {
  const address = new URLSearchParams(location.search).get('places');
  return address !== null && URL.canParse(address) ? address : undefined;
}

/** The island's own gazetteer in the page, or the service that ?places= names. */
export function placeService(): PlaceService {
  const address = serviceAddress();
  if (address !== undefined) return new PlaceLookUp({ provider: httpPlaces(address), every: 0.1 });
  return {
    at: async (...asked) => (await island()).at(...asked),
    near: async (...asked) => (await island()).near(...asked),
    named: async (...asked) => (await island()).named(...asked),
  };
}

/** The best answer as a text. */
export function answerText(answers: readonly PlaceAnswer[]): string {
  const [answer] = answers;
  if (answer === undefined || (answer.distance ?? 0) > ELSEWHERE) return 'no place is known near here';
  return answer.estimated === true ? `about ${answer.text}` : answer.text;
}

/** A reading as a text; the page always shows the numbers beside it. */
export function readingText({ state, answers, moved = 0, error }: PlaceReading): string {
  const known = answers.length === 0 ? '' : answerText(answers);
  if (error !== undefined) return known === '' ? error.userText : `${known} (last known)`;
  if (known === '') return state === 'looking' ? 'Looking up the place…' : '–';
  return moved > 50 ? `${known} (${Math.round(moved / 10) * 10} m back)` : known;
}

/** The source of a fix, if the user should know it. */
export function originText({ origin }: Fix): string {
  return origin === 'manual' ? 'given by hand' : '';
}
