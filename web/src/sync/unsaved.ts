/** Edits that are not on the server's disk yet, kept on this device from the moment they are made.
 *
 *  Each tab keeps its own, so that two tabs never overwrite one another's. What a closed tab left behind goes to
 *  the next one that opens the same thing. */
import { newKey } from '../api/newKey';
import { thisDatabase } from '../api/thisDatabase';
import type { Unread } from './history';

export interface Unsaved {
  /** The database that it belongs to; empty of what an earlier release kept. */
  database: string;
  /** The page that it is edited on. */
  page: string;
  /** Address that it is saved to. */
  path: string;
  name: string;
  /** The revision that the edits were made on. */
  revision: number;
  content: unknown;
  past: unknown[];
  future: unknown[];
  unread: Unread;
  /** When it was last known to be worked on, ms. */
  at: number;
}

const PREFIX = 'sapolin.unsaved.';
/** A tab that is open says so more often than this, as long as something is unsaved. */
const LIVE_MS = 15_000;

function tab(): string {
  try {
    const known = sessionStorage.getItem('sapolin.tab');
    if (known !== null) return known;
    const fresh = newKey();
    sessionStorage.setItem('sapolin.tab', fresh);
    return fresh;
  } catch {
    return 'this';
  }
}

const placeOf = (path: string) => `${PREFIX}${tab()} ${path}`;

/** Keep what is not saved; false when this device refuses to. */
export function keepUnsaved(edited: Omit<Unsaved, 'database' | 'page'>): boolean {
  const unsaved: Unsaved = { database: thisDatabase(), page: window.location.pathname, ...edited };
  // Where there is little room left, the content goes before the steps that led to it.
  return kept(unsaved) || kept({ ...unsaved, past: [], future: [] });
}

function kept(unsaved: Unsaved): boolean {
  try {
    localStorage.setItem(placeOf(unsaved.path), JSON.stringify(unsaved));
    return true;
  } catch {
    return false;
  }
}

/** It is saved, or given up: what this tab kept of it, or found at `place`, is forgotten. */
export function forgetUnsaved(path: string, place: string = placeOf(path)): void {
  try {
    localStorage.removeItem(place);
    localStorage.removeItem(placeOf(path));
  } catch {
    // It is taken for unsaved once more, found to be the same as what is kept, and forgotten then.
  }
}

/** What is left unsaved on this device, by its place: this tab's own, and what closed tabs left. */
export function leftUnsaved(now: number = Date.now()): [place: string, unsaved: Unsaved][] {
  const found: [string, Unsaved][] = [];
  try {
    for (let i = 0; i < localStorage.length; i += 1) {
      const place = localStorage.key(i);
      if (!place?.startsWith(PREFIX)) continue;
      const unsaved = read(localStorage.getItem(place));
      if (unsaved && belongsHere(unsaved.database) && (place === placeOf(unsaved.path) || now - unsaved.at > LIVE_MS)) found.push([place, unsaved]);
    }
  } catch {
    // Storage refused: nothing was kept there either.
  }
  return found.sort(([, a], [, b]) => b.at - a.at);
}

/** What is left unsaved of one thing, this tab's own first. */
export function recallUnsaved(path: string): [place: string, unsaved: Unsaved] | null {
  const left = leftUnsaved().filter(([, unsaved]) => unsaved.path === path);
  return left.find(([place]) => place === placeOf(path)) ?? left[0] ?? null;
}

function read(text: string | null): Unsaved | null {
  try {
    const kept = JSON.parse(text ?? 'null') as Partial<Unsaved> | null;
    if (kept?.path === undefined || kept.content === undefined || kept.revision === undefined) return null;
    return { database: '', page: kept.path.replace('/api', ''), name: '', past: [], future: [], unread: {}, at: 0, ...kept } as Unsaved;
  } catch {
    return null;
  }
}

/** Whether what was kept belongs to the database that is served now. */
export const belongsHere = (database: string) => database === '' || database === thisDatabase();

/** Whether two things say the same, in whatever order their entries stand. */
export function isSame(one: unknown, other: unknown): boolean {
  return JSON.stringify(one, inOrder) === JSON.stringify(other, inOrder);
}

function inOrder(_: string, value: unknown): unknown {
  if (value === null || typeof value !== 'object' || Array.isArray(value)) return value;
  return Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)));
}
