import { notifications } from '@mantine/notifications';
import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { at } from '../api/queries';
import type { Formula, FormulaRecord } from '../api/types';
import { keepHistory, recallHistory, record as recordStep, startHistory } from './history';
import { useTellFailure } from '../app/showFailure';

/** Take a formula over in the place of the one it came from, both kept as versions, and go to the bench with it. */
export function useKeepAsVersion(record: FormulaRecord) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  return useCallback(
    async (formula: Formula, note: string) => {
      try {
        const adopted = await answered(
          api.POST('/api/formulas/{formula_id}/adopt', { ...at(record.id), body: { revision: record.revision, formula, note } }),
        );
        // One undo step on the bench restores what was there.
        const before = await recallHistory<Formula>(record.id, record.revision);
        const until = { ...startHistory(record.formula), past: before?.past ?? [] };
        await keepHistory(record.id, adopted.record.revision, recordStep(until, adopted.record.formula, null), {});
        await client.invalidateQueries({ queryKey: ['versions', record.id] });
        const left = adopted.draft_version ? ` What was there is version ${adopted.draft_version.number}.` : '';
        const is = adopted.version
          ? `Version ${adopted.version.number} is kept.`
          : 'It is the draft now. Something is still to be entered before it can be a version.';
        notifications.show({ message: `${is}${left} ${note}` });
        void navigate(`/formulas/${record.id}`);
      } catch (error) {
        tellFailure(error);
      }
    },
    [client, navigate, record.id, record.revision, record.formula, tellFailure],
  );
}
