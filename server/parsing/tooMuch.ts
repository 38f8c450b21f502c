/** What was given is nested too deeply, too large, or takes too long to be read. */
export class TooMuch extends Error {
  override name = 'TooMuch';
}
