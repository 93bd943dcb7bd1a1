import { ApiFailure } from './client';

/** What becomes of something sent that was not taken.
 *
 *  again: no answer, or one that another try may better. elsewhere: saved elsewhere meanwhile. kept: it cannot be taken here and
 *  now (access has ended, another workshop is served, it is not there), which says nothing against it. refused: for good. */
export type Fate = 'again' | 'elsewhere' | 'kept' | 'refused';

const NO_ANSWER = 0;
const AGAIN = new Set([NO_ANSWER, 408, 425, 429]);
const NOT_HERE = new Set([401, 403, 404, 410]);
const CONFLICT = 409;
const FAULT = 500;

export function fateOf(failure: unknown): Fate {
  if (!(failure instanceof ApiFailure)) return 'refused';
  if (AGAIN.has(failure.status) || failure.status >= FAULT) return 'again';
  if (NOT_HERE.has(failure.status) || failure.code === 'another_database') return 'kept';
  return failure.status === CONFLICT && failure.problems.length === 0 ? 'elsewhere' : 'refused';
}
