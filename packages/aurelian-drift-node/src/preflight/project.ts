/** A file of an app's project. */
export interface ProjectFile {
  /** Path relative to the project, with slashes. */
  readonly path: string;
  readonly text: string;
}

/** Needs of an app, as far as they can be read from its code. */
export interface Needs {
  readonly positions: boolean;
  readonly background: boolean;
  readonly precise: boolean;
  /** Whether a call states no accuracy, and takes the default of the device. */
  readonly unstated: boolean;
  /** File and line of each. */
  readonly where: Readonly<Record<'positions' | 'background' | 'precise', string | undefined>>;
}

/** A prompt that the user will see: the words and the choices only. */
export interface PromptPreview {
  readonly file: string;
  readonly level: 'foreground' | 'background';
  /** BCP 47 tag; absent for the main language of the app. */
  readonly language?: string;
  /** Absent where the platform shows no text of the app. */
  readonly text?: string;
  readonly choices: readonly string[];
}

/** Line of an offset in a text, from 1. */
export function lineAt(text: string, offset: number): number {
  let line = 1;
  for (let i = text.indexOf('\n'); i >= 0 && i < offset; i = text.indexOf('\n', i + 1)) line++;
  return line;
}
