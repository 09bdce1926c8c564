/* Places: from numbers to names and back, from the app's own data or from a service. */

export { ADDRESS_PATTERNS, addressLines, addressText, type AddressPattern } from '../core/place/address.js';
export {
  Gazetteer,
  type AtOptions,
  type GazetteerOptions,
  type NamedOptions,
  type NearOptions,
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
export { placesFrom, placesDocument, type GeoJsonPlaces } from '../core/formats/geojson-places.js';
