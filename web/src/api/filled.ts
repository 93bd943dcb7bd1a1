import { fateOf } from './fate';
import { once } from './once';

/** Send a filled form whose request holds its key. Once there is an answer, whatever it is, what is filled in next is another. */
export function filled<T>(form: unknown, send: (key: string) => Promise<T>): Promise<T> {
  return once(form, send, (failure) => fateOf(failure) !== 'again');
}
