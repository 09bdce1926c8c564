/** The command was called wrongly: exit code 2. */
export class Misuse extends Error {
  override readonly name = 'Misuse';
}
