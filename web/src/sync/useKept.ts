import { useEffect, useState, useSyncExternalStore } from 'react';

import { Draft, type Keeper } from './draft';
import { isOpen } from './settleUnsaved';

/** Something being worked on, on screen. `keeper` must not change. */
export function useKept<R, T>(loaded: R, keeper: Keeper<R, T>) {
  const [draft] = useState(() => new Draft(loaded, keeper));
  const { record, history, unread, save, isLosable } = useSyncExternalStore(draft.watch, draft.state);

  useEffect(() => {
    const closed = isOpen(keeper.path(loaded));
    const close = draft.open();
    return () => {
      // What is still being sent looks after itself until it is over.
      void close().finally(closed);
    };
    // Once, for what was opened.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [draft]);

  useEffect(() => {
    const leave = () => draft.leave();
    const warn = (event: BeforeUnloadEvent) => {
      if (draft.state().isLosable) event.preventDefault();
    };
    window.addEventListener('pagehide', leave);
    window.addEventListener('beforeunload', warn);
    return () => {
      window.removeEventListener('pagehide', leave);
      window.removeEventListener('beforeunload', warn);
    };
  }, [draft]);

  const [acts] = useState(() => actsOf(draft));
  return {
    record,
    content: history.present,
    unread,
    save,
    isLosable,
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    ...acts,
  };
}

function actsOf<R, T>(draft: Draft<R, T>) {
  return {
    edit: (change: (content: T) => T, mergeKey: string | null = null) => draft.edit(change, mergeKey),
    follow: <A>(question: (content: T) => Promise<A>, put: (content: T, answer: A) => T) => draft.follow(question, put),
    undo: () => draft.undo(),
    redo: () => draft.redo(),
    closeStep: () => draft.closeStep(),
    setUnread: (path: string, text: string | null) => draft.setUnread(path, text),
    /** Save at once; the mark says how it went. */
    saveNow: () => void draft.saved().catch(() => undefined),
    /** The record, once what is on screen is saved. Throws why it is not. */
    saved: () => draft.saved(),
    amend: (change: (record: R) => R) => draft.amend(change),
    takeTheirs: (theirs: R) => draft.takeTheirs(theirs),
    keepMine: (theirs: R) => draft.keepMine(theirs),
  };
}
