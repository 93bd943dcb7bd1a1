import { ApiFailure } from '../api/client';
import type { components } from '../api/schema';

export type BroughtIn = components['schemas']['ReadBack'];

/** Sends an archive as it is, and answers with what came in. Throws ApiFailure. */
export async function bringIn(file: File): Promise<BroughtIn> {
  const response = await fetch('/api/safekeeping/archive', {
    method: 'POST',
    headers: { 'content-type': 'application/zip' },
    body: file,
  });
  const body = (await response.json()) as BroughtIn & components['schemas']['ErrorBody'];
  if (!response.ok) throw new ApiFailure(response.status, body.error.code, body.error.message);
  return body;
}
