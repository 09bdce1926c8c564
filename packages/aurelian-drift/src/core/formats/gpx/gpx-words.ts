/** Namespace of GPX 1.1, from its schema. */
export const GPX_NAMESPACE = 'http://www.topografix.com/GPX/1/1';
/** Our own namespace, for values without an element in GPX: children of the extensions of a track point. */
export const DRIFT_NAMESPACE = 'urn:aurelian-drift:gpx:1';
/** Numbers in our extensions, in the order in which they are written; other values of a fix have elements of GPX. */
export const DRIFT_NUMBERS = ['speed', 'course', 'accuracy', 'altitudeAccuracy'] as const;
