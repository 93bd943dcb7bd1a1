import createClient from 'openapi-fetch';

import { noteAccessEnded } from './access';
import { once } from './once';
import type { components, paths } from './schema';
import { thisDatabase } from './thisDatabase';
import type { Diagnostic } from './types';

/** What only calculates: sent twice it changes nothing, so it needs no key. */
const CALCULATES =
  /\/(compute|blend|amounts|compare|solve[a-z-]*|swap|best-move|trades|recipes|batch-plan|devices|faults)(\/|\?|$)|\/(preview|check|report|reshape|cost|mix|trial-set|draw-up|sheet)(\?|$)/;
const isFault = (status: number) => status >= 500;

/** Every request names the database that it means, and one that changes something the key of the form that it is. */
async function sent(request: Request): Promise<Response> {
  const database = thisDatabase();
  if (database !== '') request.headers.set('sapolin-database', database);
  if (request.method !== 'POST' || CALCULATES.test(request.url)) return globalThis.fetch(request);
  const body = await request.clone().text();
  // An entry of a record has a key of its own.
  if (/^\{"key":"/.test(body)) return globalThis.fetch(request);
  const form = [request.url, body];
  return once(
    form,
    async (key) => {
      request.headers.set('idempotency-key', key);
      const answer = await globalThis.fetch(request);
      if (isFault(answer.status)) throw new Unanswered(answer);
      return answer;
    },
    () => false,
  ).catch((failure: unknown) => {
    if (failure instanceof Unanswered) return failure.answer;
    throw failure;
  });
}

class Unanswered extends Error {
  constructor(readonly answer: Response) {
    super();
  }
}

export const api = createClient<paths>({ baseUrl: window.location.origin, fetch: sent });

/** An error answer of the API, or no answer at all (`status` 0). */
export class ApiFailure extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly problems: Diagnostic[] = [],
    /** Of a fault: the log names it too. */
    readonly reference: string | null = null,
  ) {
    super(message);
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer; throws ApiFailure for anything else. */
export async function answered<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await request;
  } catch (problem) {
    if (problem instanceof DOMException && problem.name === 'AbortError') throw problem;
    throw new ApiFailure(0, 'unreachable', 'Sapolin’s server does not answer. Is it still running?');
  }
  if (answer.data !== undefined) return answer.data;
  const body = answer.error as components['schemas']['ErrorBody'] | undefined;
  if (body?.error.code === 'not_paired') noteAccessEnded();
  throw new ApiFailure(
    answer.response.status,
    body?.error.code ?? 'fault',
    body?.error.message ?? `The server answered ${answer.response.status}.`,
    body?.error.problems ?? [],
    body?.error.reference ?? null,
  );
}
