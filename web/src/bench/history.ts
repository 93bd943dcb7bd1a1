/** Undo and redo over formulas, kept beside the formula's revision so that they survive a reload. */
import type { Formula } from '../api/types';

export interface History {
  past: Formula[];
  present: Formula;
  future: Formula[];
  /** What the last edit was about; further edits of the same thing join its undo step. */
  mergeKey: string | null;
}

const DEPTH = 100;

export function startHistory(present: Formula): History {
  return { past: [], present, future: [], mergeKey: null };
}

export function record(history: History, next: Formula, mergeKey: string | null): History {
  if (next === history.present) return history;
  const joins = mergeKey !== null && mergeKey === history.mergeKey && history.past.length > 0;
  const past = joins ? history.past : [...history.past, history.present].slice(-DEPTH);
  return { past, present: next, future: [], mergeKey };
}

export function undo(history: History): History {
  const previous = history.past.at(-1);
  if (previous === undefined) return history;
  return {
    past: history.past.slice(0, -1),
    present: previous,
    future: [history.present, ...history.future],
    mergeKey: null,
  };
}

export function redo(history: History): History {
  const [next, ...future] = history.future;
  if (next === undefined) return history;
  return { past: [...history.past, history.present], present: next, future, mergeKey: null };
}

/** Entries that could not be read, by the path of their field, exactly as typed. */
export type Unread = Record<string, string>;

interface Kept {
  revision: number;
  past: Formula[];
  future: Formula[];
  unread: Unread;
}

const key = (formulaId: string) => `sapolin.history.${formulaId}`;

export function keepHistory(formulaId: string, revision: number, history: History, unread: Unread): void {
  const kept: Kept = { revision, past: history.past, future: history.future, unread };
  try {
    localStorage.setItem(key(formulaId), JSON.stringify(kept));
  } catch {
    // Storage full or refused: undo then lasts as long as the page, and the formula itself is on the server.
  }
}

/** The history kept for exactly this revision; another revision came from elsewhere and starts afresh. */
export function recallHistory(formulaId: string, revision: number, present: Formula): [History, Unread] {
  try {
    const kept = JSON.parse(localStorage.getItem(key(formulaId)) ?? 'null') as Kept | null;
    if (kept !== null && kept.revision === revision) {
      return [{ past: kept.past, present, future: kept.future, mergeKey: null }, kept.unread];
    }
  } catch {
    // Unreadable: start afresh.
  }
  return [startHistory(present), {}];
}
