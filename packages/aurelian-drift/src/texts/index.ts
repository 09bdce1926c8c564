/*
 * The texts that users read: `new Receiver({ …, texts: await loadTexts() })`.
 */
export { loadTexts } from './load-texts.js';
export { ENGLISH, textsFrom } from './texts-from.js';
export type {
  AppFailureTexts,
  ConsentTexts,
  FailureText,
  FailureTexts,
  FindTexts,
  NearTexts,
  MapItem,
  MapTexts,
  PageTexts,
  ServiceFailureTexts,
  PluralText,
  ReportFigure,
  ReportTexts,
  SharingTexts,
  TextParts,
  Texts,
  WayTexts,
} from '../core/texts/texts.js';
