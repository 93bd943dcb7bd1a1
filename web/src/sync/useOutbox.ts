import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useSyncExternalStore } from 'react';

import { Outbox, type Delivered, type Waiting } from './outbox';

export type { Delivered } from './outbox';

interface Adding<E, A> {
  /** What the events are added to; one after the other, never two at once. */
  record: string;
  /** Add one; it is sent again under the same key until there is an answer. */
  post: (entry: Waiting<E>) => Promise<A>;
  /** What became of an event that a closed tab left behind. */
  onRecalled: (entry: Waiting<E>, delivered: Delivered<A>) => void;
}

/** One outbox a record, whichever screens add to it, and for as long as something is under way. */
const outboxes = new WeakMap<QueryClient, Map<string, Outbox<never, never>>>();

function outboxOf<E, A>(client: QueryClient, record: string, post: (entry: Waiting<E>) => Promise<A>): Outbox<E, A> {
  const known = outboxes.get(client) ?? new Map<string, Outbox<never, never>>();
  outboxes.set(client, known);
  const found = known.get(record) as Outbox<E, A> | undefined;
  if (found !== undefined) return found;
  const fresh = new Outbox(record, post);
  known.set(record, fresh as unknown as Outbox<never, never>);
  return fresh;
}

/** Adds events to a record on the server. */
export function useOutbox<E, A>({ record, post, onRecalled }: Adding<E, A>) {
  const client = useQueryClient();
  const outbox = outboxOf(client, record, post);
  const { waiting, isOffline } = useSyncExternalStore(outbox.watch, outbox.state);
  const tell = useRef(onRecalled);
  useEffect(() => {
    tell.current = onRecalled;
    outbox.via(post);
  }, [outbox, post, onRecalled]);
  useEffect(() => {
    outbox.recall((entry, delivered) => tell.current(entry, delivered));
  }, [outbox]);
  const add = useCallback((event: E, afterSeq: number | null = null) => outbox.add(event, afterSeq), [outbox]);
  return { add, isSaved: waiting === 0, isOffline };
}
