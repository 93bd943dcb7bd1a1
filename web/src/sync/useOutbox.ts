import { useMutation } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';

import { ApiFailure } from '../api/client';
import { newKey } from '../api/newKey';
import { forgetFromOutbox, keepInOutbox, recallOutbox, type Waiting } from './outbox';

const RETRY_MS = 1500;
/** An event on which the server fails this often is put behind the others, and kept here. */
const MOST_FAULTS = 4;

export type Delivered<A> = { answer: A } | { failure: Error; isKept: boolean };

interface Outbox<E, A> {
  /** What the events are added to; one after the other, never two at once. */
  record: string;
  /** Add one; it is sent again under the same key until there is an answer. */
  post: (entry: Waiting<E>) => Promise<A>;
  /** What became of an event that a closed tab left behind. */
  onRecalled: (entry: Waiting<E>, delivered: Delivered<A>) => void;
}

/** Adds events to a record on the server. Each is kept on this device until the server has it on disk, so that nothing is
 *  lost, and sent again under the same key if no answer came, so that nothing is added twice. */
export function useOutbox<E, A>({ record, post, onRecalled }: Outbox<E, A>) {
  const [waiting, setWaiting] = useState<Waiting<E>[]>(() => recallOutbox<E>(record));
  const [isOffline, setIsOffline] = useState(false);
  const faults = useRef(new Map<string, number>());
  const { mutateAsync } = useMutation({
    scope: { id: `outbox ${record}` },
    networkMode: 'always',
    mutationFn: async (entry: Waiting<E>) => {
      try {
        const answer = await post(entry);
        setIsOffline(false);
        return answer;
      } catch (failure) {
        setIsOffline(isPassing(failure));
        if (failure instanceof ApiFailure && isFault(failure)) faults.current.set(entry.key, (faults.current.get(entry.key) ?? 0) + 1);
        // The server fails on this very event: it is not waited for any longer.
        if ((faults.current.get(entry.key) ?? 0) >= MOST_FAULTS) throw new GivenUp(failure);
        throw failure;
      }
    },
    retry: (_, failure) => isPassing(failure),
    retryDelay: RETRY_MS,
  });

  const deliver = useCallback(
    async (entry: Waiting<E>): Promise<Delivered<A>> => {
      let delivered: Delivered<A>;
      try {
        delivered = { answer: await mutateAsync(entry) };
      } catch (failure) {
        if (failure instanceof GivenUp) return { failure, isKept: true };
        delivered = { failure: failure as Error, isKept: false };
      }
      forgetFromOutbox(record, entry.key);
      setWaiting((now) => now.filter((one) => one.key !== entry.key));
      return delivered;
    },
    [record, mutateAsync],
  );

  // What a closed tab left behind goes first.
  const recalled = useRef(false);
  const tell = useRef(onRecalled);
  useEffect(() => {
    tell.current = onRecalled;
  }, [onRecalled]);
  useEffect(() => {
    if (recalled.current) return;
    recalled.current = true;
    const resend = (entry: Waiting<E>) => deliver(entry).then((delivered) => tell.current(entry, delivered));
    queueMicrotask(() => recallOutbox<E>(record).map(resend));
  }, [record, deliver]);

  const add = useCallback(
    (event: E, afterSeq: number | null = null): Promise<Delivered<A>> => {
      const entry: Waiting<E> = { key: newKey(), afterSeq, event, at: Date.now() };
      keepInOutbox(record, entry);
      setWaiting((now) => [...now, entry]);
      return deliver(entry);
    },
    [record, deliver],
  );
  return { add, isSaved: waiting.length === 0, isOffline };
}

class GivenUp extends Error {
  constructor(cause: unknown) {
    super('The server fails on it.', { cause });
  }
}

/** No answer, or one that another try may better: a server that is gone, or whose disk is full, is waited for. */
function isPassing(failure: unknown): boolean {
  return failure instanceof ApiFailure && (failure.status === 0 || failure.status >= 500);
}

function isFault(failure: ApiFailure): boolean {
  return failure.status >= 500 && failure.code !== 'disk_full';
}
