/** Namespace of KML 2.2, which 2.3 (OGC 12-007r2) keeps; the version is an attribute. */
export const KML_NAMESPACE = 'http://www.opengis.net/kml/2.2';
/** The schema of our columns within a document. */
export const SCHEMA_ID = 'fix';
/** Name of the datum that states whether a line was planned. */
export const KIND = 'kind';
/** Name of the datum with the number of cuts of a veil. */
export const VEILED = 'veiled';
/** Name of the datum with additional data of the points of a line, as JSON parallel to the coordinates. */
export const POINTS = 'points';
