import type { Turn } from '../network/turns.js';
import type { NoFixKind } from '../fix/no-fix-kinds.js';
import type { ServiceErrorKind } from '../service/service-error-kinds.js';

/** A text with a singular and a plural, chosen by `Intl.PluralRules`. */
export interface PluralText {
  readonly one: string;
  readonly other: string;
}

/** The two sentences about a failure. */
export interface FailureText {
  /** What happened. */
  readonly happened: string;
  /** What the user can do. */
  readonly help: string;
}

/** Texts of `NoFixError.userText` and of the remedies, by the kind of failure. */
export type FailureTexts = Readonly<Record<NoFixKind, FailureText>>;

/** Texts of failures inside an app, where they differ from those of a page. */
export type AppFailureTexts = Partial<FailureTexts>;

/** Texts of `ServiceError.userText`, by the kind of failure. */
export type ServiceFailureTexts = Readonly<Record<ServiceErrorKind, string>>;

/** Texts that any page may show: the remedy before the first prompt, and the note about an unhandled failure. */
export interface PageTexts {
  /** What to do before the first prompt. */
  readonly beforePrompt: string;
  /** Label of the button that removes the note. */
  readonly close: string;
}

/** Texts of `<aurelian-consent>`. */
export interface ConsentTexts {
  readonly title: string;
  readonly goOn: string;
  readonly notNow: string;
  /** Link to the page that explains more. */
  readonly more: string;
  readonly close: string;
  /** Labels of the button that carries out a remedy. */
  readonly askAgain: string;
  readonly openSettings: string;
  readonly turnOn: string;
}

/** Things on a map that are counted in its description. */
export type MapItem = 'pins' | 'trails' | 'lines' | 'fences' | 'shapes' | 'members';

/** Texts of the map: its strip of controls, the notes in it, and its description in words. */
export interface MapTexts {
  /** Name of the map where the app gives none. */
  readonly label: string;
  readonly controls: string;
  readonly ownPlace: string;
  readonly follow: string;
  readonly courseUp: string;
  readonly closer: string;
  readonly wider: string;
  readonly showPlace: string;
  readonly tryAgain: string;
  /** Label of the button that carries out a remedy, such as opening the settings. */
  readonly doIt: string;
  readonly waitingForAnswer: FailureText;
  readonly waitingForPosition: FailureText;
  readonly noPosition: FailureText;
  readonly noSize: string;
  readonly noBackground: string;
  readonly tiles: FailureText;
  /** Tiles of the background are missing because the service refuses the key. */
  readonly tilesRefused: FailureText;
  /** `{count}` pins stand at one place. */
  readonly crowdedPins: string;
  readonly unreadableBackground: string;
  /** The map has neither a view nor content. */
  readonly noView: string;
  /** The app made a mistake; the reason follows, in English. */
  readonly faulty: string;
  /** How a map inside a scrolling page is moved: by fingers, and by the wheel with a `{key}`. */
  readonly twoFingers: string;
  readonly wheelWithKey: string;
  /** Kind of the element for screen readers, and its keys. */
  readonly role: string;
  readonly keys: string;
  /** `{place}`: position and accuracy. */
  readonly ownPlaceAt: string;
  readonly ownPlaceUnknown: string;
  /** `{length}` from one side to the other, `{place}` in the middle. */
  readonly view: string;
  /** `{degrees}` clockwise from north point up. */
  readonly turned: string;
  /** `{count}` of each. */
  readonly items: Readonly<Record<MapItem, PluralText>>;
  /** `{names}` of the fences around the user. */
  readonly inside: string;
  readonly states: Readonly<Record<'late' | 'asleep' | 'vanished', string>>;
  /** Name of the kite for the keyboard, whose label is opened with Enter. */
  readonly kite: string;
  /** Name of a pin without a text. */
  readonly pin: string;
  readonly noText: string;
  /** `{name}` of a pin that can be moved by keys. */
  readonly movable: string;
}

/** Texts of `<aurelian-find>`. */
export interface FindTexts {
  readonly label: string;
  /** No place has the name. */
  readonly nothing: string;
  /** No place has the name, but places with similar names follow. */
  readonly similar: string;
  /** Before a position that was typed in numbers. */
  readonly position: string;
  /** A choice: the place where the user is. */
  readonly here: string;
  /** While the device finds it. */
  readonly finding: string;
}

/** Texts of `<aurelian-near>`. */
export interface NearTexts {
  readonly label: string;
  /** Nothing is near. */
  readonly nothing: string;
  /** Before the first fix. */
  readonly unknown: string;
  readonly looking: string;
  readonly open: string;
  readonly closed: string;
  /** `{time}` at which it closes. */
  readonly openUntil: string;
  /** `{time}` at which it opens. */
  readonly closedUntil: string;
}

/** Texts of a way and its steps. */
export interface WayTexts {
  /** What to do at a turn: where the next lane has no name, and where it has one or its kind is known (`{lane}`). */
  readonly turns: Readonly<Record<Turn, { readonly plain: string; readonly onto: string }>>;
  /** Lanes without a name by their kind, as they stand behind the turns. Other kinds are not named. */
  readonly kinds: Readonly<Record<'road' | 'street' | 'lane' | 'track' | 'path' | 'steps', string>>;
  /** `{text}` of the turn, and the `{length}` to the next. */
  readonly step: string;
  /** `{length}` from the nearest place that can be reached to the target. */
  readonly noWay: string;
  /** `{length}` from the nearest lane. */
  readonly offNetwork: string;
}

/** Sentences of the terms of sharing. */
export interface SharingTexts {
  /** `{recipients}`: a list of names. */
  readonly recipients: string;
  readonly exact: string;
  /** `{length}`: with its unit. */
  readonly rounded: string;
  readonly veiled: string;
  readonly noTrail: string;
  /** `{duration}`: with its unit, here and below. */
  readonly trail: string;
  readonly noLimit: string;
  readonly endsAfter: string;
  readonly endsIn: string;
  readonly cleanedUp: string;
  /** `{vanishedAfter}` and `{retention}`: durations with their units. */
  readonly vanished: string;
}

/** Texts of a report: headings, names of figures, remarks, and the definitions at its end. */
export interface ReportTexts {
  /** Names of a trail and of a line without one. */
  readonly trail: string;
  readonly line: string;
  /** Remark at a line. */
  readonly noTimes: string;
  /** `{start}` and `{end}`: dates with times. */
  readonly when: string;
  readonly figures: Readonly<Record<ReportFigure, string>>;
  readonly none: string;
  /** `{count}` gaps of `{duration}` together. */
  readonly gapRemark: PluralText;
  /** `{count}` parts. */
  readonly veilRemark: PluralText;
  /** `{distance}`: the plain sum. */
  readonly filterRemark: string;
  readonly noBackground: string;
  readonly profiles: string;
  /** Below the profile of smoothed heights. */
  readonly measuredLine: string;
  readonly noHeight: string;
  readonly heightOverDistance: string;
  readonly heightOverTime: string;
  readonly speedOverDistance: string;
  readonly speedOverTime: string;
  /** `{low}`, `{high}` and `{unit}`. */
  readonly range: string;
  /** `{unit}`. */
  readonly distanceAxis: string;
  readonly timeAxis: string;
  readonly aboveSea: string;
  readonly aboveEllipsoid: string;
  /** `{length}` of one split. */
  readonly splits: string;
  readonly split: string;
  readonly time: string;
  readonly pace: string;
  readonly up: string;
  readonly down: string;
  readonly speedInMotion: string;
  readonly stops: string;
  readonly from: string;
  readonly duration: string;
  readonly where: string;
  readonly fences: string;
  readonly noFence: string;
  readonly timeInFences: string;
  readonly fence: string;
  readonly inside: string;
  readonly visits: string;
  readonly crossings: string;
  readonly kind: string;
  readonly certainty: string;
  readonly kinds: Readonly<Record<'initial' | 'enter' | 'exit' | 'linger' | 'pass' | 'closed', string>>;
  /** Pairs of a term and its definition. */
  readonly definitions: readonly (readonly [term: string, definition: string])[];
}

/** Figures at the head of a report. */
export type ReportFigure =
  | 'distance'
  | 'duration'
  | 'moving'
  | 'resting'
  | 'averageSpeed'
  | 'movingSpeed'
  | 'pace'
  | 'topSpeed'
  | 'climb'
  | 'descent'
  | 'fixes'
  | 'gaps'
  | 'stops'
  | 'rawDistance'
  | 'slope'
  | 'points';

/** The parts of a table of texts. */
export interface TextParts {
  readonly failures: FailureTexts;
  readonly appFailures: AppFailureTexts;
  readonly serviceFailures: ServiceFailureTexts;
  readonly page: PageTexts;
  readonly consent: ConsentTexts;
  readonly map: MapTexts;
  readonly find: FindTexts;
  readonly near: NearTexts;
  readonly sharing: SharingTexts;
  readonly ways: WayTexts;
  readonly report: ReportTexts;
}

/**
 * A table of the texts that users read, in one language. Any part and any text in it may be left out; English takes its
 * place. `loadTexts` loads those that the library has, `textsFrom` checks one of the app's own.
 */
export type Texts = {
  /** BCP 47 tag of the language. */
  readonly language: string;
} & { readonly [Part in keyof TextParts]?: Partial<TextParts[Part]> };
