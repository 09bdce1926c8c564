/** Namespace of GPX 1.1, from its schema. */
export const GPX_NAMESPACE = 'http://www.topografix.com/GPX/1/1';
/** Our own, for what GPX has no element for: children of a track point's extensions. */
export const DRIFT_NAMESPACE = 'urn:aurelian-drift:gpx:1';
/** Numbers in our extensions, in the order they are written; the rest of a fix has elements of its own. */
export const DRIFT_NUMBERS = ['speed', 'course', 'accuracy', 'altitudeAccuracy'] as const;
