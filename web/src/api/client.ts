import createClient from 'openapi-fetch';

import { noteAccessEnded } from './access';
import type { components, paths } from './schema';
import type { Diagnostic } from './types';

export const api = createClient<paths>({ baseUrl: window.location.origin });

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
