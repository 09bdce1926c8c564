/* A trail as one page that needs nothing else. */

export { reportPage, type ReportContent, type ReportOptions } from './report.js';
export type { ReportFont } from './report-style.js';
export { profileOf, type ProfilePoint } from './profile.js';
