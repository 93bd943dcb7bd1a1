import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { at } from '../api/queries';
import { useTellFailure } from '../app/showFailure';

/** Plan a batch of a formula, as its last one was made, and go to it. */
export function usePlanBatch() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  return useCallback(
    async (formulaId: string) => {
      try {
        const plan = await answered(api.GET('/api/formulas/{formula_id}/batch-plan', at(formulaId)));
        const batch = await answered(api.POST('/api/batches', { body: plan }));
        await client.invalidateQueries({ queryKey: ['batches'] });
        void navigate(`/batches/${batch.id}`);
      } catch (error) {
        tellFailure(error);
      }
    },
    [client, navigate, tellFailure],
  );
}
