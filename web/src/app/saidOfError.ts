/** What browsers say of code that they could not get. */
const NOT_FETCHED = /dynamically imported module|module script failed/i;

/** What a maker is told of an error that no screen expected. */
export function saidOfError(error: unknown): string {
  const told = error instanceof Error ? error.message : String(error);
  return NOT_FETCHED.test(told) ? 'The code for it could not be fetched: the server does not answer, or has another version by now.' : told;
}
