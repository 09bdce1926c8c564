/* Places: from numbers to names and back, from the app's own data or from a service. */

export { ADDRESS_PATTERNS, addressLines, addressText, type AddressPattern } from '../core/place/address.js';
export {
  Gazetteer,
  type AtOptions,
  type GazetteerOptions,
  type NamedOptions,
  type NearOptions,
  type NearOrder,
  type AnswerOptions,
} from '../core/place/gazetteer.js';
export {
  ADDRESS_PARTS,
  PLACE_LEVELS,
  type Address,
  type AddressPart,
  type Place,
  type PlaceAnswer,
  type PlaceLevel,
  type PlaceMatch,
  type PlaceRelation,
  type PlaceShape,
} from '../core/place/place.js';
export { placeRecord, placeRecordFrom, type PlaceRecord } from '../core/place/place-record.js';
export { answersToGeoJson, answersFrom } from '../core/formats/geojson/geojson-answers.js';
export { placesFrom, type GeoJsonPlaces } from '../core/formats/geojson/geojson-places.js';
export { httpPlaces } from './http-places.js';
export { PlaceLookUp, type PlaceLookUpOptions } from './place-look-up.js';
export { SERVICE_ERROR_KINDS, type ServiceErrorKind } from '../core/service/service-error-kinds.js';
export { ServiceError, type ServiceErrorDetail } from '../core/service/service-error.js';
export { gazetteerPlaces, type Cancel, type PlaceProvider, type PlaceService } from './place-service.js';
export { AnswerWatch, type AnswerWatchOptions, type LocalAnswer, type LocalReading } from './answer-watch.js';
export { NearWatch, type NearWatchOptions } from './near-watch.js';
export { openingOf, type Opening } from '../core/place/opening.js';
export type { QuestionReading } from '../service/followed-question.js';
export { PlaceWatch, type PlaceReading, type PlaceWatchOptions } from './place-watch.js';
export { addressOnTap, type TapBoard, type Tapped } from './address-on-tap.js';
