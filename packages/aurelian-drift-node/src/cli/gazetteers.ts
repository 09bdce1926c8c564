import {
  Gazetteer,
  httpPlaces,
  PlaceLookUp,
  gazetteerPlaces,
  type PlaceService,
} from 'aurelian-drift/places';
import { readPlaces } from './files.js';

/** The gazetteer of a file of places, or of the island for `demo`. */
export async function readGazetteer(path: string): Promise<Gazetteer> {
  const { places, language } = await readPlaces(path);
  return new Gazetteer(places, language === undefined ? {} : { language });
}

/** Service for places: a file, `demo`, or the address of a service. */
export async function placesArgument(argument: string): Promise<PlaceService> {
  if (/^https?:/i.test(argument)) return new PlaceLookUp({ provider: httpPlaces(argument) });
  return gazetteerPlaces(await readGazetteer(argument));
}
