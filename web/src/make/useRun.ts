import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import type { NewEvent, Problem, Run } from '../api/types';
import { followed, keepOutbox, recallOutbox, type Waiting } from './outbox';

export type RunEvent = NewEvent['event'];

const RETRY_MS = 1500;
const FOLLOW_MS = 4000;
/** Events that must follow what this screen shows; others may be added whatever happened meanwhile. */
const IN_STEP = new Set<RunEvent['kind']>(['started', 'step_done', 'captured', 'way_taken', 'finished']);

export type Sent = { ok: true; run: Run } | { ok: false; problem: Problem | null };

/** The record of a batch: what it adds up to, and adding to it.
 *
 *  An event is kept on this device until the server has it on disk, and sent again under the same key if no answer came,
 *  so that nothing is lost and nothing is added twice. */
export function useRun(batchId: string) {
  const client = useQueryClient();
  const key = ['run', batchId];
  const { data: run, error } = useQuery({
    queryKey: key,
    queryFn: async () => {
      const asked = await answered(api.GET('/api/batches/{batch_id}/run', { params: { path: { batch_id: batchId } } }));
      // An answer that was under way while something was added is older than what is shown.
      const shown = client.getQueryData<Run>(key);
      return shown !== undefined && shown.state.seq > asked.state.seq ? shown : asked;
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
  const post = useCallback(
    async (entry: Waiting): Promise<Sent> => {
      for (;;) {
        const before = latest.current?.state.seq;
        const afterSeq = followed(entry.afterSeq, chain.current);
        try {
          const next = await answered(
            api.POST('/api/batches/{batch_id}/events', {
              params: { path: { batch_id: batchId } },
              body: { key: entry.key, after_seq: afterSeq, event: entry.event },
            }),
          );
          if (before !== undefined && next.state.seq === before + 1) chain.current.set(before, next.state.seq);
          latest.current = next;
          client.setQueryData(['run', batchId], next);
          setIsOffline(false);
          return { ok: true, run: next };
        } catch (failure) {
          if (failure instanceof ApiFailure && (failure.status === 0 || failure.status >= 500)) {
            setIsOffline(true);
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
    [batchId, client],
  );

  const line = useRef<Promise<unknown>>(Promise.resolve());
  const enqueue = useCallback(
    (entry: Waiting): Promise<Sent> => {
      const sent = line.current.then(async () => {
        const answer = await post(entry);
        setWaiting((now) => keepOutbox(batchId, now.filter((one) => one.key !== entry.key)));
        return answer;
      });
      line.current = sent;
      return sent;
    },
    [batchId, post],
  );

  // What a closed tab left behind goes first.
  const recalled = useRef(false);
  useEffect(() => {
    if (recalled.current) return;
    recalled.current = true;
    for (const entry of recallOutbox(batchId)) void enqueue(entry);
  }, [batchId, enqueue]);

  const send = useCallback(
    (event: RunEvent): Promise<Sent> => {
      const afterSeq = IN_STEP.has(event.kind) ? (latest.current?.state.seq ?? null) : null;
      const entry: Waiting = { key: crypto.randomUUID(), afterSeq, event };
      setWaiting((now) => keepOutbox(batchId, [...now, entry]));
      return enqueue(entry);
    },
    [batchId, enqueue],
  );

  return { run, error, send, isSaved: waiting.length === 0, isOffline };
}
