import { createStore, delMany, entries, get, keys, set, type UseStore } from 'idb-keyval';

/** Undo and redo over what is edited, kept beside its revision so that they survive a reload. */

export interface History<T> {
  past: T[];
  present: T;
  future: T[];
  /** What the last edit was about; further edits of the same thing join its undo step. */
  mergeKey: string | null;
}

const DEPTH = 100;

export function startHistory<T>(present: T): History<T> {
  return { past: [], present, future: [], mergeKey: null };
}

export function record<T>(history: History<T>, next: T, mergeKey: string | null): History<T> {
  if (next === history.present) return history;
  const joins = mergeKey !== null && mergeKey === history.mergeKey && history.past.length > 0;
  const past = joins ? history.past : [...history.past, history.present].slice(-DEPTH);
  return { past, present: next, future: [], mergeKey };
}

export function undo<T>(history: History<T>): History<T> {
  const previous = history.past.at(-1);
  if (history.past.length === 0 || previous === undefined) return history;
  return {
    past: history.past.slice(0, -1),
    present: previous,
    future: [history.present, ...history.future],
    mergeKey: null,
  };
}

export function redo<T>(history: History<T>): History<T> {
  const [next, ...future] = history.future;
  if (history.future.length === 0 || next === undefined) return history;
  return { past: [...history.past, history.present], present: next, future, mergeKey: null };
}

/** Entries that could not be read, by the path of their field, exactly as typed. */
export type Unread = Record<string, string>;

interface Kept<T> {
  revision: number;
  past: T[];
  future: T[];
  unread: Unread;
  /** When it was kept, ms. */
  at: number;
}

const MOST_KEPT = 300;
/** So many more there may be before the oldest go. */
const SPARE = 30;
const PLACE = 'sapolin.history.';

/** Whole steps of many things: too much for the small storage that unsaved edits need for themselves. */
let opened: UseStore | null = null;
function histories(): UseStore {
  opened ??= createStore('sapolin-histories', 'histories');
  return opened;
}

/** Keep the steps that lead to a revision; when the device refuses, undo lasts as long as the page. */
export async function keepHistory<T>(id: string, revision: number, history: History<T>, unread: Unread): Promise<void> {
  const kept: Kept<T> = { revision, past: history.past, future: history.future, unread, at: Date.now() };
  try {
    await set(id, kept, histories());
    await forgetOldest();
  } catch {
    // Storage full or refused: the content itself is on the server.
  }
}

/** The steps kept for exactly this revision; another revision came from elsewhere and starts afresh. */
export async function recallHistory<T>(id: string, revision: number): Promise<Pick<Kept<T>, 'past' | 'future' | 'unread'> | null> {
  try {
    const kept = (await get<Kept<T>>(id, histories())) ?? ofEarlierRelease<T>(id);
    return kept?.revision === revision ? kept : null;
  } catch {
    return null;
  }
}

/** Earlier releases kept them in the small storage; what is found there makes room. */
function ofEarlierRelease<T>(id: string): Kept<T> | undefined {
  const text = localStorage.getItem(PLACE + id);
  if (text === null) return undefined;
  localStorage.removeItem(PLACE + id);
  return JSON.parse(text) as Kept<T>;
}

async function forgetOldest(): Promise<void> {
  // Names alone, as a rule: what they hold is read only when some of it has to go.
  if ((await keys(histories())).length <= MOST_KEPT + SPARE) return;
  const all = await entries<string, Kept<unknown>>(histories());
  const oldest = all.sort(([, a], [, b]) => a.at - b.at).slice(0, all.length - MOST_KEPT);
  await delMany(oldest.map(([id]) => id), histories());
}
