import { newKey } from './newKey';

/** Keys of filled forms whose answer is still to come, or never came, by what they say. */
const open = new Map<string, string>();

/** Send a filled form under a key that belongs to it and not to the tap: a second tap while its answer is to come, or another try
 *  after none came, goes under the same key, and the server does it once. `isOver` tells whether a failure was an answer. */
export async function once<T>(form: unknown, send: (key: string) => Promise<T>, isOver: (failure: unknown) => boolean): Promise<T> {
  const said = JSON.stringify(form);
  const key = open.get(said) ?? newKey();
  open.set(said, key);
  const done = () => {
    if (open.get(said) === key) open.delete(said);
  };
  try {
    const answer = await send(key);
    done();
    return answer;
  } catch (failure) {
    if (isOver(failure)) done();
    throw failure;
  }
}
