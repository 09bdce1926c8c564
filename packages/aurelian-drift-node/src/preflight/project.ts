/** A file of an app's project. */
export interface ProjectFile {
  /** Relative to the project, with slashes. */
  readonly path: string;
  readonly text: string;
}

/** What an app's code asks for, as far as it can be read from it. */
export interface Needs {
  readonly positions: boolean;
  readonly background: boolean;
  readonly precise: boolean;
  /** Whether a call names no accuracy, and takes what the device gives. */
  readonly unstated: boolean;
  /** The file and line where each was found. */
  readonly where: Readonly<Record<'positions' | 'background' | 'precise', string | undefined>>;
}

/** What the user will be asked: the words and the choices only. */
export interface PromptPreview {
  readonly file: string;
  readonly level: 'foreground' | 'background';
  /** A BCP 47 tag; absent for the app's main language. */
  readonly language?: string;
  /** Absent where the platform shows no text of the app's. */
  readonly text?: string;
  readonly choices: readonly string[];
}

/** The line of an offset in a text, from 1. */
export function lineAt(text: string, offset: number): number {
  let line = 1;
  for (let i = text.indexOf('\n'); i >= 0 && i < offset; i = text.indexOf('\n', i + 1)) line++;
  return line;
}
