import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, use, useCallback, useRef, useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import type { CureView, Diagnostic, NewCureEvent } from '../api/types';
import type { Waiting } from '../sync/outbox';
import { tellNotRecorded } from '../sync/tellNotRecorded';
import { useOutbox, type Delivered } from '../sync/useOutbox';

export type CureEvent = NewCureEvent['event'];
/** What is recorded, and when it happened when that was not just now. */
export interface Entry {
  event: CureEvent;
  at: string | null;
}
export type Recorded = { ok: true; view: CureView } | { ok: false; problem: Diagnostic | null };

const FOLLOW_MS = 20_000;

/** The record of a batch after its pour. Entries go through the outbox: kept on this device until the server has them. */
export function useCure(batchId: string) {
  const client = useQueryClient();
  const { data: view, error } = useQuery({
    queryKey: ['cure', batchId],
    queryFn: ({ signal }) => answered(api.GET('/api/batches/{batch_id}/cure', { params: { path: { batch_id: batchId } }, signal })),
    refetchOnMount: 'always',
    refetchInterval: FOLLOW_MS,
  });
  const post = useCallback(
    async (entry: Waiting<Entry>) => {
      const { event, at } = entry.event;
      const next = await answered(
        api.POST('/api/batches/{batch_id}/cure/events', { params: { path: { batch_id: batchId } }, body: { key: entry.key, at, event } }),
      );
      client.setQueryData(['cure', batchId], next);
      void client.invalidateQueries({ queryKey: ['trays'] });
      return next;
    },
    [batchId, client],
  );
  const settle = useCallback((delivered: Delivered<CureView>): Recorded => {
    if ('answer' in delivered) return { ok: true, view: delivered.answer };
    if (delivered.isKept) {
      notifications.show({ title: 'Not recorded yet', message: 'The server fails on it. It is kept on this device, and sent again when the page is loaded anew.', color: 'red', autoClose: false });
      return { ok: false, problem: null };
    }
    const problem = delivered.failure instanceof ApiFailure ? (delivered.failure.problems[0] ?? null) : null;
    if (problem === null) notifications.show({ message: delivered.failure.message, color: 'yellow' });
    return { ok: false, problem };
  }, []);
  const { add, isSaved, isOffline } = useOutbox<Entry, CureView>({
    record: `${batchId}~cure`,
    post,
    onRecalled: (entry, delivered) => tellNotRecorded(entry.event.event.kind.replace('_', ' '), entry.event, delivered),
  });
  const record = useCallback(async (event: CureEvent, at: string | null = null) => settle(await add({ event, at })), [add, settle]);
  return { view, error, record, isSaved, isOffline };
}

export interface Curing {
  view: CureView;
  record: (event: CureEvent, at?: string | null) => Promise<Recorded>;
}

export const CureContext = createContext<Curing | null>(null);

export function useCuring(): Curing {
  const curing = use(CureContext);
  if (curing === null) throw new Error('useCuring outside the cure stage');
  return curing;
}

/** Recording from one form: what is refused or asked about stands beside it until it is answered or changed. */
export function useEntry() {
  const { record } = useCuring();
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  // A second tap on the same filled form is the first one still: nothing is recorded twice.
  const underWay = useRef<{ said: string; done: Promise<boolean> } | null>(null);
  const send = (event: CureEvent, at: string | null = null): Promise<boolean> => {
    const said = JSON.stringify([event, at]);
    if (underWay.current?.said === said) return underWay.current.done;
    const done = record(event, at)
      .then((sent) => {
        setProblem(sent.ok ? null : sent.problem);
        return sent.ok;
      })
      .finally(() => {
        if (underWay.current?.done === done) underWay.current = null;
      });
    underWay.current = { said, done };
    return done;
  };
  return { problem, send, clear: () => setProblem(null) };
}
