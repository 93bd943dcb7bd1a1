import { useCallback, useEffect, useReducer, useRef, useState } from 'react';

import { ApiFailure } from '../api/client';
import { keepHistory, recallHistory, record, redo, startHistory, undo, type History, type Unread } from './history';
import { isOpen } from './settleUnsaved';
import { announce, follow } from './tabs';
import { forgetUnsaved, isSame, keepUnsaved, recallUnsaved, type Unsaved } from './unsaved';
import type { Text } from '../api/types';

const QUIET_MS = 350;
const RETRY_MS = 3000;
const ALIVE_MS = 5000;

/** saved: on disk. waiting: typed, about to be sent. saving: sent. offline: not answered, tried again.
 *  conflict: saved elsewhere since. refused: the server will not keep it; `message` says why. */
export type SaveState =
  { kind: 'saved' | 'waiting' | 'saving' | 'offline' | 'conflict' } | { kind: 'refused'; message: Text | string };

/** Where something edited is kept, and how. */
export interface Keeper<R, T> {
  id: (record: R) => string;
  name: (content: T) => string;
  revision: (record: R) => number;
  content: (record: R) => T;
  /** Address and body of a save; also sent when the page is left. */
  path: (record: R) => string;
  body: (record: R, content: T) => unknown;
  put: (record: R, content: T) => Promise<R>;
}

interface DraftState<R, T> {
  record: R;
  history: History<T>;
  unread: Unread;
  save: SaveState;
}

type Action<R, T> =
  | { type: 'edit'; change: (content: T) => T; mergeKey: string | null }
  | { type: 'undo' | 'redo' | 'closeStep' }
  | { type: 'unread'; path: string; text: string | null }
  | { type: 'sent' }
  | { type: 'kept'; record: R; sent: T }
  | { type: 'failed'; save: SaveState }
  | { type: 'amended'; amend: (record: R) => R }
  | { type: 'recalled'; past: T[]; future: T[]; unread: Unread }
  | { type: 'replaced'; record: R; content: T; keepMine: boolean };

function moved<R, T>(state: DraftState<R, T>, history: History<T>): DraftState<R, T> {
  if (history === state.history) return state;
  const save: SaveState = state.save.kind === 'conflict' ? state.save : { kind: 'waiting' };
  return { ...state, history, save };
}

function reduce<R, T>(state: DraftState<R, T>, action: Action<R, T>): DraftState<R, T> {
  switch (action.type) {
    case 'edit':
      return moved(state, record(state.history, action.change(state.history.present), action.mergeKey));
    case 'undo':
      return moved({ ...state, unread: {} }, undo(state.history));
    case 'redo':
      return moved({ ...state, unread: {} }, redo(state.history));
    case 'closeStep':
      return { ...state, history: { ...state.history, mergeKey: null } };
    case 'unread': {
      const others = Object.entries(state.unread).filter(([path]) => path !== action.path);
      return {
        ...state,
        unread: Object.fromEntries(action.text === null ? others : [...others, [action.path, action.text]]),
      };
    }
    case 'sent':
      return { ...state, save: { kind: 'saving' } };
    case 'kept':
      return {
        ...state,
        record: action.record,
        save: { kind: action.sent === state.history.present ? 'saved' : 'waiting' },
      };
    case 'failed':
      return { ...state, save: action.save };
    case 'amended':
      return { ...state, record: action.amend(state.record) };
    case 'recalled': {
      const { history } = state;
      const isUntouched = history.past.length === 0;
      // What was done while it was being read comes after it.
      return {
        ...state,
        unread: { ...action.unread, ...state.unread },
        history: { ...history, past: [...action.past, ...history.past], future: isUntouched ? action.future : history.future },
      };
    }
    case 'replaced':
      return action.keepMine
        ? { ...state, record: action.record, save: { kind: 'waiting' } }
        : {
            ...state,
            record: action.record,
            unread: {},
            history: record(state.history, action.content, null),
            save: { kind: 'saved' },
          };
  }
}

/** A record as it is opened: with what was left unsaved of it, if anything was. */
function opened<R, T>(record: R, keeper: Keeper<R, T>, left: Unsaved | undefined): DraftState<R, T> {
  const content = keeper.content(record);
  if (left === undefined) {
    return { record, history: startHistory(content), unread: {}, save: { kind: 'saved' } };
  }
  const isKept = isSame(left.content, content);
  const present = isKept ? content : (left.content as T);
  const history: History<T> = { past: left.past as T[], present, future: left.future as T[], mergeKey: null };
  // It reached the server although its answer did not come back; or it goes there now; or someone else was there meanwhile.
  const save: SaveState['kind'] = isKept ? 'saved' : left.revision === keeper.revision(record) ? 'waiting' : 'conflict';
  return { record, history, unread: left.unread, save: { kind: save } as SaveState };
}

/** Something being worked on: edits with undo, and an autosave whose state is always known. `keeper` must not change. */
export function useKept<R, T>(loaded: R, keeper: Keeper<R, T>) {
  const [leftBehind] = useState(() => recallUnsaved(keeper.path(loaded)));
  const [state, dispatch] = useReducer(reduce<R, T>, loaded, (first): DraftState<R, T> => opened(first, keeper, leftBehind?.[1]));
  const { record: kept, history, unread, save } = state;
  const latest = useRef(state);
  const inFlight = useRef<Promise<void> | null>(null);
  useEffect(() => {
    latest.current = state;
  });

  const send = useCallback(async (): Promise<void> => {
    if (inFlight.current) await inFlight.current;
    const { record: base, history: now } = latest.current;
    const content = now.present;
    dispatch({ type: 'sent' });
    const sending = (async () => {
      try {
        const saved = await keeper.put(base, content);
        latest.current = { ...latest.current, record: saved };
        dispatch({ type: 'kept', record: saved, sent: content });
        announce(keeper.path(saved), saved);
      } catch (error) {
        dispatch({ type: 'failed', save: afterFailure(error) });
      }
    })();
    inFlight.current = sending;
    await sending;
    inFlight.current = null;
  }, [keeper]);

  useEffect(() => {
    if (save.kind !== 'waiting' && save.kind !== 'offline') return undefined;
    const timer = setTimeout(() => void send(), save.kind === 'waiting' ? QUIET_MS : RETRY_MS);
    return () => clearTimeout(timer);
  }, [save, history.present, send]);

  // The steps of before, unless what was left unsaved brought its own.
  const isRecalled = useRef(leftBehind !== null);
  useEffect(() => {
    if (leftBehind !== null) return;
    void recallHistory<T>(keeper.id(loaded), keeper.revision(loaded)).then((before) => {
      isRecalled.current = true;
      if (before !== null) dispatch({ type: 'recalled', ...before });
    });
    // Once, for what was opened.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  useEffect(() => follow(keeper.path(loaded), (theirs) => {
    const { save: now, record: on, unread: typed } = latest.current;
    const record = theirs as R;
    if (now.kind !== 'saved' || Object.keys(typed).length > 0 || keeper.revision(record) <= keeper.revision(on)) return;
    dispatch({ type: 'replaced', record, content: keeper.content(record), keepMine: false });
  }), [keeper, loaded]);

  const [isStored, setStored] = useState(true);
  const isLosable = !isStored && save.kind !== 'saved';
  useEffect(() => {
    const path = keeper.path(kept);
    if (save.kind === 'saved') {
      if (!isRecalled.current) return undefined;
      // Until its steps are kept, what is kept as unsaved holds them; it is found to be the same as what is saved.
      void keepHistory(keeper.id(kept), keeper.revision(kept), history, unread).then(() => {
        const { save: now, record: on } = latest.current;
        if (now.kind === 'saved' && keeper.revision(on) === keeper.revision(kept)) forgetUnsaved(path, leftBehind?.[0]);
      });
      return undefined;
    }
    const store = () => {
      const { past, present, future } = history;
      const isKept = keepUnsaved({
        path, name: keeper.name(present), revision: keeper.revision(kept), content: present, past, future, unread, at: Date.now(),
      });
      setStored(isKept);
    };
    store();
    // Another tab must not take it for left behind.
    const alive = setInterval(store, ALIVE_MS);
    return () => clearInterval(alive);
  }, [keeper, kept, history, unread, save.kind, leftBehind]);

  useEffect(() => isOpen(keeper.path(loaded)), [keeper, loaded]);

  useEffect(() => {
    const flush = () => {
      const { save: last, record: base, history: now, unread } = latest.current;
      if (last.kind !== 'waiting') return;
      // Should it fail, what is kept on this device is sent again.
      fetch(keeper.path(base), {
        method: 'PUT',
        keepalive: true,
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(keeper.body(base, now.present)),
      }).then(
        async (answer) => {
          if (!answer.ok) return;
          // It is saved, and can still be undone when it is opened again.
          const saved = (await answer.json()) as R;
          announce(keeper.path(saved), saved);
          await keepHistory(keeper.id(base), keeper.revision(saved), now, unread);
          forgetUnsaved(keeper.path(base));
        },
        () => undefined,
      );
    };
    const warn = (event: BeforeUnloadEvent) => {
      if (isLosable) event.preventDefault();
    };
    window.addEventListener('pagehide', flush);
    window.addEventListener('beforeunload', warn);
    return () => {
      void (inFlight.current ?? Promise.resolve()).then(flush);
      window.removeEventListener('pagehide', flush);
      window.removeEventListener('beforeunload', warn);
    };
  }, [keeper, isLosable]);

  const edit = useCallback((change: (content: T) => T, mergeKey: string | null = null) => {
    dispatch({ type: 'edit', change, mergeKey });
  }, []);

  return {
    record: kept,
    content: history.present,
    unread,
    save,
    /** It is neither on the server nor on this device: leaving would lose it. */
    isLosable,
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    edit,
    undo: useCallback(() => dispatch({ type: 'undo' }), []),
    redo: useCallback(() => dispatch({ type: 'redo' }), []),
    closeStep: useCallback(() => dispatch({ type: 'closeStep' }), []),
    setUnread: useCallback((path: string, text: string | null) => dispatch({ type: 'unread', path, text }), []),
    saveNow: send,
    amend: useCallback((amend: (record: R) => R) => dispatch({ type: 'amended', amend }), []),
    takeTheirs: useCallback(
      (theirs: R) => dispatch({ type: 'replaced', record: theirs, content: keeper.content(theirs), keepMine: false }),
      [keeper],
    ),
    keepMine: useCallback(
      (theirs: R) => dispatch({ type: 'replaced', record: theirs, content: keeper.content(theirs), keepMine: true }),
      [keeper],
    ),
    current: useCallback(() => latest.current, []),
  };
}

function afterFailure(error: unknown): SaveState {
  if (!(error instanceof ApiFailure)) return { kind: 'refused', message: String(error) };
  if (error.status === 409) return { kind: 'conflict' };
  if (error.status === 0 || error.status >= 500) return { kind: 'offline' };
  return { kind: 'refused', message: error.problems[0]?.message ?? error.message };
}
