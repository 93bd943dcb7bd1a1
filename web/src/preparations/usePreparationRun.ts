import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useRef } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { filled } from '../api/filled';
import type { PreparationRun } from '../api/types';
import { inShort, type RunEvent, type SentOf, type TareAnswer } from '../make/useRun';
import type { Waiting } from '../sync/outbox';
import { tellNotRecorded } from '../sync/tellNotRecorded';
import { useOutbox, type Delivered } from '../sync/useOutbox';

const FOLLOW_MS = 4000;

/** The record of a preparation: what it adds up to, and adding to it. Events go through the outbox, as on make day. */
export function usePreparationRun(preparationId: string) {
  const client = useQueryClient();
  const key = ['preparation-run', preparationId];
  const path = { path: { preparation_id: preparationId } };
  const { data: run, error, refetch, failureReason } = useQuery({
    queryKey: key,
    queryFn: () => answered(api.GET('/api/preparations/{preparation_id}/run', { params: path })),
    refetchInterval: FOLLOW_MS,
    retry: (count, failure) => count < 3 && !(failure instanceof ApiFailure && failure.status > 0),
  });
  const post = async (entry: Waiting<RunEvent>): Promise<PreparationRun> => {
    const next = await answered(
      api.POST('/api/preparations/{preparation_id}/events', { params: path, body: { key: entry.key, after_seq: null, event: entry.event } }),
    );
    client.setQueryData(key, next);
    return next;
  };
  const settle = async (delivered: Delivered<PreparationRun>): Promise<SentOf<PreparationRun>> => {
    if ('answer' in delivered) return { ok: true, run: delivered.answer };
    await client.invalidateQueries({ queryKey: key });
    const problem = delivered.failure instanceof ApiFailure ? (delivered.failure.problems[0] ?? null) : null;
    if (problem === null) notifications.show({ message: delivered.failure.message, color: 'yellow' });
    return { ok: false, problem };
  };
  const { add, isSaved, isOffline } = useOutbox<RunEvent, PreparationRun>({
    record: `preparation ${preparationId}`,
    post,
    onRecalled: (entry, delivered) => {
      tellNotRecorded(inShort(entry.event), entry.event, delivered);
      void client.invalidateQueries({ queryKey: key });
    },
  });
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const send = useCallback(
    (event: RunEvent) => {
      const sent = add(event, null).then(settle);
      last.current = sent;
      return sent;
    },
    // Both hold for as long as the preparation is the same.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [add, preparationId],
  );
  const tare = useCallback(
    async (item: string, answer: TareAnswer = {}): Promise<SentOf<PreparationRun>> => {
      await last.current;
      try {
        const next = await filled(['tare', preparationId, item, answer], (key) =>
          answered(
            api.POST('/api/preparations/{preparation_id}/tare', {
              params: { path: { preparation_id: preparationId } },
              body: { key, after_seq: null, item, emptied: false, sure: false, ...answer },
            }),
          ),
        );
        client.setQueryData(['preparation-run', preparationId], next);
        return { ok: true, run: next };
      } catch (failure) {
        const problem = failure instanceof ApiFailure ? (failure.problems[0] ?? null) : null;
        if (problem === null) notifications.show({ message: (failure as Error).message, color: 'yellow' });
        return { ok: false, problem };
      }
    },
    [client, preparationId],
  );
  return { run, error, send, tare, refetch, isSaved, isOffline: isOffline || failureReason !== null };
}
