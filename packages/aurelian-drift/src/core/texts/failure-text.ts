import type { NoFixKind } from '../fix/no-fix-kinds.js';
import { appFailures, failures } from './english.js';
import type { FailureText, Texts } from './texts.js';

/** Tables of failures in another language than English. */
export type FailureTables = Pick<Texts, 'failures' | 'appFailures'>;

/** The sentences about a failure: those for an app where the page runs inside one and they differ; else of the page. */
export function failureText(kind: NoFixKind, inApp: boolean, texts: FailureTables | undefined): FailureText {
  const ofApp = inApp
    ? (texts?.appFailures?.[kind] ?? (texts?.failures === undefined ? appFailures[kind] : undefined))
    : undefined;
  return ofApp ?? texts?.failures?.[kind] ?? failures[kind];
}
