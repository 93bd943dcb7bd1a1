import { ApiFailure } from './client';
import { fateOf } from './fate';
import { filled } from './filled';
import type { components } from './schema';
import { thisDatabase } from './thisDatabase';

const MOST_NAME = 120;
const MOST_TRIES = 6;
const AGAIN_MS = 2500;

/** Send a picture to where pictures of a batch are added, again under its key while no answer comes; throws ApiFailure. */
export async function sendPicture<T>(address: string, file: File): Promise<T> {
  return filled([address, file.name, file.size, file.lastModified], async (key) => {
    for (let tries = 1; ; tries += 1) {
      try {
        return await sentOnce<T>(`${address}?${new URLSearchParams({ key, name: file.name.slice(0, MOST_NAME) })}`, file);
      } catch (failure) {
        if (fateOf(failure) !== 'again' || tries === MOST_TRIES) throw failure;
        await new Promise((wait) => setTimeout(wait, AGAIN_MS));
      }
    }
  });
}

async function sentOnce<T>(address: string, file: File): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(address, { method: 'POST', headers: { 'content-type': file.type, 'sapolin-database': thisDatabase() }, body: file });
  } catch {
    throw new ApiFailure(0, 'unreachable', 'The picture could not be sent: Sapolin’s server does not answer. Choose it again when it does.');
  }
  const body = (await answer.json()) as T & Partial<components['schemas']['ErrorBody']>;
  if (answer.ok) return body;
  throw new ApiFailure(answer.status, body.error?.code ?? 'fault', body.error?.message ?? `The server answered ${answer.status}.`, body.error?.problems ?? []);
}
