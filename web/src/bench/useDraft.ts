import { useCallback, useEffect, useReducer, useRef } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { at } from '../api/queries';
import type { Formula, FormulaRecord } from '../api/types';
import { keepHistory, recallHistory, record, redo, undo, type History, type Unread } from './history';

const QUIET_MS = 350;
const RETRY_MS = 3000;

/** saved: on disk. waiting: typed, about to be sent. saving: sent. offline: not answered, tried again.
 *  conflict: saved elsewhere since. refused: the server will not keep it; `message` says why. */
export type SaveState =
  { kind: 'saved' | 'waiting' | 'saving' | 'offline' | 'conflict' } | { kind: 'refused'; message: string };

interface DraftState {
  record: FormulaRecord;
  history: History;
  unread: Unread;
  save: SaveState;
}

type Action =
  | { type: 'edit'; change: (formula: Formula) => Formula; mergeKey: string | null }
  | { type: 'undo' | 'redo' | 'closeStep' }
  | { type: 'unread'; path: string; text: string | null }
  | { type: 'sent' }
  | { type: 'kept'; record: FormulaRecord; sent: Formula }
  | { type: 'failed'; save: SaveState }
  | { type: 'versioned'; number: number }
  | { type: 'replaced'; record: FormulaRecord; keepMine: boolean };

function start(loaded: FormulaRecord): DraftState {
  const [history, unread] = recallHistory(loaded.id, loaded.revision, loaded.formula);
  return { record: loaded, history, unread, save: { kind: 'saved' } };
}

function moved(state: DraftState, history: History): DraftState {
  if (history === state.history) return state;
  const save: SaveState = state.save.kind === 'conflict' ? state.save : { kind: 'waiting' };
  return { ...state, history, save };
}

function reduce(state: DraftState, action: Action): DraftState {
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
    case 'versioned':
      return { ...state, record: { ...state.record, latest_version: action.number } };
    case 'replaced':
      return action.keepMine
        ? { ...state, record: action.record, save: { kind: 'waiting' } }
        : {
            ...state,
            record: action.record,
            unread: {},
            history: record(state.history, action.record.formula, null),
            save: { kind: 'saved' },
          };
  }
}

/** The formula being worked on: edits with undo, and an autosave whose state is always known. */
export function useDraft(loaded: FormulaRecord) {
  const [state, dispatch] = useReducer(reduce, loaded, start);
  const { record: kept, history, unread, save } = state;
  const latest = useRef(state);
  const inFlight = useRef<Promise<void> | null>(null);
  useEffect(() => {
    latest.current = state;
  });

  const send = useCallback(async (): Promise<void> => {
    if (inFlight.current) await inFlight.current;
    const { record: base, history: now } = latest.current;
    const formula = now.present;
    dispatch({ type: 'sent' });
    const sending = (async () => {
      try {
        const saved = await answered(
          api.PUT('/api/formulas/{formula_id}', { ...at(base.id), body: { revision: base.revision, formula } }),
        );
        latest.current = { ...latest.current, record: saved };
        dispatch({ type: 'kept', record: saved, sent: formula });
      } catch (error) {
        dispatch({ type: 'failed', save: afterFailure(error) });
      }
    })();
    inFlight.current = sending;
    await sending;
    inFlight.current = null;
  }, []);

  useEffect(() => {
    if (save.kind !== 'waiting' && save.kind !== 'offline') return undefined;
    const timer = setTimeout(() => void send(), save.kind === 'waiting' ? QUIET_MS : RETRY_MS);
    return () => clearTimeout(timer);
  }, [save, history.present, send]);

  useEffect(() => {
    if (save.kind === 'saved') keepHistory(kept.id, kept.revision, history, unread);
  }, [kept.id, kept.revision, history, unread, save.kind]);

  useEffect(() => {
    const flush = () => {
      const { save: last, record: base, history: now } = latest.current;
      if (last.kind !== 'waiting') return;
      void fetch(`/api/formulas/${base.id}`, {
        method: 'PUT',
        keepalive: true,
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ revision: base.revision, formula: now.present }),
      });
    };
    const warn = (event: BeforeUnloadEvent) => {
      if (latest.current.save.kind !== 'saved' && latest.current.save.kind !== 'waiting') event.preventDefault();
    };
    window.addEventListener('pagehide', flush);
    window.addEventListener('beforeunload', warn);
    return () => {
      void (inFlight.current ?? Promise.resolve()).then(flush);
      window.removeEventListener('pagehide', flush);
      window.removeEventListener('beforeunload', warn);
    };
  }, []);

  const edit = useCallback((change: (formula: Formula) => Formula, mergeKey: string | null = null) => {
    dispatch({ type: 'edit', change, mergeKey });
  }, []);

  return {
    record: kept,
    formula: history.present,
    unread,
    save,
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    edit,
    undo: useCallback(() => dispatch({ type: 'undo' }), []),
    redo: useCallback(() => dispatch({ type: 'redo' }), []),
    closeStep: useCallback(() => dispatch({ type: 'closeStep' }), []),
    setUnread: useCallback((path: string, text: string | null) => dispatch({ type: 'unread', path, text }), []),
    saveNow: send,
    versioned: useCallback((number: number) => dispatch({ type: 'versioned', number }), []),
    takeTheirs: useCallback((theirs: FormulaRecord) => {
      dispatch({ type: 'replaced', record: theirs, keepMine: false });
    }, []),
    keepMine: useCallback((theirs: FormulaRecord) => {
      dispatch({ type: 'replaced', record: theirs, keepMine: true });
    }, []),
    current: useCallback(() => latest.current, []),
  };
}

export type Draft = ReturnType<typeof useDraft>;

function afterFailure(error: unknown): SaveState {
  if (!(error instanceof ApiFailure)) return { kind: 'refused', message: String(error) };
  if (error.status === 409) return { kind: 'conflict' };
  if (error.status === 0 || error.status >= 500) return { kind: 'offline' };
  return { kind: 'refused', message: error.problems[0]?.message ?? error.message };
}
