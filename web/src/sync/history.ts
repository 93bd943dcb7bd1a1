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
}

const key = (id: string) => `sapolin.history.${id}`;

export function keepHistory<T>(id: string, revision: number, history: History<T>, unread: Unread): void {
  const kept: Kept<T> = { revision, past: history.past, future: history.future, unread };
  try {
    localStorage.setItem(key(id), JSON.stringify(kept));
  } catch {
    // Storage full or refused: undo then lasts as long as the page, and the content itself is on the server.
  }
}

/** The history kept for exactly this revision; another revision came from elsewhere and starts afresh. */
export function recallHistory<T>(id: string, revision: number, present: T): [History<T>, Unread] {
  try {
    const kept = JSON.parse(localStorage.getItem(key(id)) ?? 'null') as Kept<T> | null;
    if (kept !== null && kept.revision === revision) {
      return [{ past: kept.past, present, future: kept.future, mergeKey: null }, kept.unread];
    }
  } catch {
    // Unreadable: start afresh.
  }
  return [startHistory(present), {}];
}
