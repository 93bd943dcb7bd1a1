import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { filled } from '../api/filled';
import type { Diagnostic, NewEvent, Progress, Run, WholeRun } from '../api/types';
import { followed, type Waiting } from '../sync/outbox';
import { tellNotRecorded } from '../sync/tellNotRecorded';
import { useOutbox, type Delivered } from '../sync/useOutbox';

export type RunEvent = NewEvent['event'];

const FOLLOW_MS = 4000;
/** Events that must follow what this screen shows; others may be added whatever happened meanwhile. */
const IN_STEP = new Set<RunEvent['kind']>(['started', 'step_done', 'lot_chosen', 'captured', 'correction_taken', 'finished']);

export type SentOf<R> = { ok: true; run: R } | { ok: false; problem: Diagnostic | null };
export type Sent = SentOf<Run>;
/** What the maker said to a question about taring. */
export interface TareAnswer {
  emptied?: boolean;
  sure?: boolean;
}

/** The record of a batch: what it adds up to, and adding to it.
 *
 *  Events go through the outbox: kept on this device until the server has them on disk, and added once. */
export function useRun(batchId: string) {
  const client = useQueryClient();
  const key = ['run', batchId];
  const { data: run, error, failureReason, refetch } = useQuery({
    queryKey: key,
    queryFn: async () => {
      const path = { params: { path: { batch_id: batchId } } };
      const before = client.getQueryData<Run>(key);
      // The plan stays as it is once the batch has begun: then only how far it has come is asked for.
      const asked =
        before === undefined || before.state.status === 'planned'
          ? wholeRun(await answered(api.GET('/api/batches/{batch_id}/run', path)))
          : movedOn(before, await answered(api.GET('/api/batches/{batch_id}/progress', path)));
      // An answer that was under way while something was added is older than what is shown.
      const shown = client.getQueryData<Run>(key);
      return shown !== undefined && shown.events > asked.events ? shown : asked;
    },
    refetchInterval: FOLLOW_MS,
    refetchOnMount: 'always',
    retry: (count, failure) => count < 3 && failure instanceof ApiFailure && failure.status === 0,
  });
  const latest = useRef<Run | undefined>(run);
  useEffect(() => {
    latest.current = run;
  }, [run]);

  const chain = useRef(new Map<number, number>());
  const learn = useCallback(
    (before: number | undefined, progress: Progress): Run | null => {
      const known = client.getQueryData<Run>(['run', batchId]) ?? latest.current;
      if (known === undefined) return null;
      const next = movedOn(known, progress);
      if (before !== undefined && next.events === before + 1) chain.current.set(before, next.events);
      latest.current = next;
      client.setQueryData(['run', batchId], next);
      return next;
    },
    [batchId, client],
  );
  /** What is shown after an answer; asked for when nothing is shown yet. */
  const known = useCallback(
    async (run: Run | null): Promise<Run> => {
      if (run !== null) return run;
      const asked = wholeRun(await answered(api.GET('/api/batches/{batch_id}/run', { params: { path: { batch_id: batchId } } })));
      client.setQueryData(['run', batchId], asked);
      return asked;
    },
    [batchId, client],
  );
  const post = useCallback(
    async (entry: Waiting<RunEvent>): Promise<Run> => {
      const before = latest.current?.events;
      const next = await answered(
        api.POST('/api/batches/{batch_id}/events', {
          params: { path: { batch_id: batchId } },
          body: { key: entry.key, after_seq: followed(entry.afterSeq, chain.current), event: entry.event },
        }),
      );
      return await known(learn(before, next));
    },
    [batchId, known, learn],
  );
  /** What became of an event; an event that is refused means that this screen shows less than there is. */
  const settle = useCallback(
    async (event: RunEvent, delivered: Delivered<Run>): Promise<Sent> => {
      if ('answer' in delivered) return { ok: true, run: delivered.answer };
      if (delivered.isKept) {
        notifications.show({ title: 'Not recorded yet', message: `The server fails on “${inShort(event)}”. It is kept on this device, and sent again when the page is loaded anew.`, color: 'red', autoClose: false });
        return { ok: false, problem: null };
      }
      await client.invalidateQueries({ queryKey: ['run', batchId] });
      const problem = delivered.failure instanceof ApiFailure ? (delivered.failure.problems[0] ?? null) : null;
      if (problem === null) notifications.show({ message: delivered.failure.message, color: 'yellow' });
      return { ok: false, problem };
    },
    [batchId, client],
  );
  const { add, isSaved, isOffline } = useOutbox<RunEvent, Run>({
    record: batchId,
    post,
    onRecalled: (entry, delivered) => {
      tellNotRecorded(inShort(entry.event), entry.event, delivered);
      void client.invalidateQueries({ queryKey: ['run', batchId] });
    },
  });

  const last = useRef<Promise<unknown>>(Promise.resolve());
  const send = useCallback(
    (event: RunEvent): Promise<Sent> => {
      const sent = add(event, IN_STEP.has(event.kind) ? (latest.current?.events ?? null) : null).then((delivered) => settle(event, delivered));
      last.current = sent;
      return sent;
    },
    [add, settle],
  );

  /** Set the scale to zero for an item. It is not queued: a tare counts only at the moment it is done. */
  const tare = useCallback(
    async (item: string, answer: TareAnswer = {}): Promise<Sent> => {
      await last.current;
      const before = latest.current?.events;
      try {
        const next = await filled(['tare', batchId, item, answer], (key) =>
          answered(
            api.POST('/api/batches/{batch_id}/tare', {
              params: { path: { batch_id: batchId } },
              body: { key, after_seq: before ?? null, item, emptied: false, sure: false, ...answer },
            }),
          ),
        );
        const run = await known(learn(before, next));
        return { ok: true, run };
      } catch (failure) {
        const problem = failure instanceof ApiFailure ? (failure.problems[0] ?? null) : null;
        if (problem === null) notifications.show({ message: (failure as Error).message, color: 'yellow' });
        await client.invalidateQueries({ queryKey: ['run', batchId] });
        return { ok: false, problem };
      }
    },
    [batchId, client, known, learn],
  );

  return { run, error, send, tare, refetch, isSaved, isOffline: isOffline || failureReason !== null };
}

/** A run as the screen uses it: what stays and what moves, side by side. */
export function wholeRun({ progress, ...fixed }: WholeRun): Run {
  return { ...fixed, ...progress };
}

/** A run with how far it has come by now; what is poured follows the weights. */
export function movedOn(run: Run, progress: Progress): Run {
  const { poured } = progress;
  if (poured === null) return { ...run, ...progress };
  const { steps: changed, ...follows } = poured;
  const steps = run.prepared.steps.map((step) => changed.find((one) => one.id === step.id) ?? step);
  return { ...run, ...progress, prepared: { ...run.prepared, planned: { ...run.prepared.planned, ...follows }, steps } };
}

/** An event in a few words, for a maker who has to write it down elsewhere. */
export function inShort(event: RunEvent): string {
  if (event.kind === 'noted') return event.text;
  if (event.kind === 'captured') return `${event.item}, ${event.weight_g} g`;
  if (event.kind === 'temperature') return `${event.bowl}, ${event.celsius} °C`;
  return event.kind.replace('_', ' ');
}
