/** Wrong use of a command: exit code 2. */
export class Misuse extends Error {
  override readonly name = 'Misuse';
}
