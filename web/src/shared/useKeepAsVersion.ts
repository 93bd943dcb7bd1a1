import { notifications } from '@mantine/notifications';
import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { at } from '../api/queries';
import type { Formula, FormulaRecord } from '../api/types';
import { useTellFailure } from './tellFailure';

/** Save a formula over the one it came from, keep it as a version with a note, and go to the bench with it. */
export function useKeepAsVersion(record: FormulaRecord) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  return useCallback(
    async (formula: Formula, note: string) => {
      try {
        const saved = await answered(
          api.PUT('/api/formulas/{formula_id}', { ...at(record.id), body: { revision: record.revision, formula } }),
        );
        const version = await answered(
          api.POST('/api/formulas/{formula_id}/versions', { ...at(record.id), body: { revision: saved.revision, note } }),
        );
        await client.invalidateQueries({ queryKey: ['versions', record.id] });
        notifications.show({ message: `Version ${version.number} is kept. ${note}` });
        void navigate(`/formulas/${record.id}`);
      } catch (error) {
        tellFailure(error);
      }
    },
    [client, navigate, record.id, record.revision, tellFailure],
  );
}
