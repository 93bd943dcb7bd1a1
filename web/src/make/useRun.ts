import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { createElement, useCallback, useEffect, useRef, useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import type { Diagnostic, NewEvent, Progress, Run, WholeRun } from '../api/types';
import { Sentence } from '../design/Sentence';
import { saidOf } from '../design/units';
import { followed, forgetFromOutbox, keepInOutbox, recallOutbox, type Waiting } from '../sync/outbox';

export type RunEvent = NewEvent['event'];

const RETRY_MS = 1500;
const FOLLOW_MS = 4000;
/** An event on which the server fails this often is put behind the others, and kept here. */
const MOST_FAULTS = 4;
/** Events that must follow what this screen shows; others may be added whatever happened meanwhile. */
const IN_STEP = new Set<RunEvent['kind']>(['started', 'step_done', 'captured', 'correction_taken', 'finished']);

export type Sent = { ok: true; run: Run } | { ok: false; problem: Diagnostic | null };
/** What the maker said to a question about taring. */
export interface TareAnswer {
  emptied?: boolean;
  sure?: boolean;
}

/** The record of a batch: what it adds up to, and adding to it.
 *
 *  An event is kept on this device until the server has it on disk, and sent again under the same key if no answer came,
 *  so that nothing is lost and nothing is added twice. */
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
  const [waiting, setWaiting] = useState<Waiting[]>(() => recallOutbox(batchId));
  const [isOffline, setIsOffline] = useState(false);
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
      setIsOffline(false);
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
    async (entry: Waiting): Promise<Sent & { isKept?: boolean }> => {
      for (let faults = 0; ; ) {
        const before = latest.current?.events;
        const afterSeq = followed(entry.afterSeq, chain.current);
        try {
          const next = await answered(
            api.POST('/api/batches/{batch_id}/events', {
              params: { path: { batch_id: batchId } },
              body: { key: entry.key, after_seq: afterSeq, event: entry.event },
            }),
          );
          const run = await known(learn(before, next));
          return { ok: true, run };
        } catch (failure) {
          if (failure instanceof ApiFailure && (failure.status === 0 || failure.status >= 500)) {
            setIsOffline(true);
            // A server that is gone, or whose disk is full, is waited for; one that fails on this very event is not.
            if (failure.status !== 0 && failure.code !== 'disk_full') faults += 1;
            if (faults >= MOST_FAULTS) return { ok: false, problem: null, isKept: true };
            await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
            continue;
          }
          setIsOffline(false);
          await client.invalidateQueries({ queryKey: ['run', batchId] });
          const problem = failure instanceof ApiFailure ? (failure.problems[0] ?? null) : null;
          if (problem === null) notifications.show({ message: (failure as Error).message, color: 'yellow' });
          return { ok: false, problem };
        }
      }
    },
    [batchId, client, known, learn],
  );

  const line = useRef<Promise<unknown>>(Promise.resolve());
  const enqueue = useCallback(
    (entry: Waiting): Promise<Sent> => {
      const sent = line.current.then(async () => {
        const { isKept, ...answer } = await post(entry);
        if (isKept) {
          notifications.show({ title: 'Not recorded yet', message: `The server fails on “${inShort(entry.event)}”. It is kept on this device, and sent again when the page is loaded anew.`, color: 'red', autoClose: false });
          return answer;
        }
        forgetFromOutbox(batchId, entry.key);
        setWaiting((now) => now.filter((one) => one.key !== entry.key));
        return answer;
      });
      line.current = sent;
      return sent;
    },
    [batchId, post],
  );

  // What a closed tab left behind goes first. What cannot be recorded any more is said, word by word.
  const recalled = useRef(false);
  useEffect(() => {
    if (recalled.current) return;
    recalled.current = true;
    for (const entry of recallOutbox(batchId)) {
      void enqueue(entry).then((sent) => {
        if (sent.ok || sent.problem === null) return;
        notifications.show({ title: 'From before, and not recorded', message: createElement(Sentence, { children: [`${inShort(entry.event)}: `, ...saidOf(sent.problem)] }), color: 'red', autoClose: false });
      });
    }
  }, [batchId, enqueue]);

  const send = useCallback(
    (event: RunEvent): Promise<Sent> => {
      const afterSeq = IN_STEP.has(event.kind) ? (latest.current?.events ?? null) : null;
      const entry: Waiting = { key: crypto.randomUUID(), afterSeq, event, at: Date.now() };
      keepInOutbox(batchId, entry);
      setWaiting((now) => [...now, entry]);
      return enqueue(entry);
    },
    [batchId, enqueue],
  );

  /** Set the scale to zero for an item. It is not queued: a tare counts only at the moment it is done. */
  const tare = useCallback(
    async (item: string, answer: TareAnswer = {}): Promise<Sent> => {
      await line.current;
      const before = latest.current?.events;
      try {
        const next = await answered(
          api.POST('/api/batches/{batch_id}/tare', {
            params: { path: { batch_id: batchId } },
            body: { key: crypto.randomUUID(), after_seq: before ?? null, item, emptied: false, sure: false, ...answer },
          }),
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

  return { run, error, send, tare, refetch, isSaved: waiting.length === 0, isOffline: isOffline || failureReason !== null };
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
function inShort(event: RunEvent): string {
  if (event.kind === 'noted') return event.text;
  if (event.kind === 'captured') return `${event.item}, ${event.weight_g} g`;
  if (event.kind === 'temperature') return `${event.bowl}, ${event.celsius} °C`;
  return event.kind.replace('_', ' ');
}
