import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { at } from '../api/queries';
import { useTellFailure } from '../shared/tellFailure';
import { newPlan } from './plan';

/** Plan a batch of a formula, as its last one was made, and go to it. */
export function usePlanBatch() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  return useCallback(
    async (formulaId: string) => {
      try {
        const [record, earlier] = await Promise.all([
          answered(api.GET('/api/formulas/{formula_id}', at(formulaId))),
          answered(api.GET('/api/batches', { params: { query: { formula_id: formulaId } } })),
        ]);
        const last = earlier[0]
          ? await answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: earlier[0].id } } }))
          : null;
        const batch = await answered(api.POST('/api/batches', { body: newPlan(record, last?.plan ?? null) }));
        await client.invalidateQueries({ queryKey: ['batches'] });
        void navigate(`/batches/${batch.id}`);
      } catch (error) {
        tellFailure(error);
      }
    },
    [client, navigate, tellFailure],
  );
}
