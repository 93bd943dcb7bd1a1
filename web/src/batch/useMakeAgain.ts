import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { useTellFailure } from '../app/showFailure';

/** Plan the same batch again, and go to its make day: it begins with what was noted for next time. */
export function useMakeAgain() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  return useCallback(
    async (batchId: string) => {
      try {
        const batch = await answered(api.POST('/api/batches/{batch_id}/again', { params: { path: { batch_id: batchId } } }));
        await client.invalidateQueries({ queryKey: ['batches'] });
        void navigate(`/batches/${batch.id}/make`);
      } catch (error) {
        tellFailure(error);
      }
    },
    [client, navigate, tellFailure],
  );
}
