import { useCallback } from 'react';

import { answered, api } from '../api/client';
import { at } from '../api/queries';
import type { Formula, FormulaRecord } from '../api/types';
import type { Keeper } from '../sync/draft';
import { useKept } from '../sync/useKept';

const keeper: Keeper<FormulaRecord, Formula> = {
  id: (record) => record.id,
  name: (formula) => formula.name,
  revision: (record) => record.revision,
  content: (record) => record.formula,
  path: (record) => `/api/formulas/${record.id}`,
  body: (record, formula) => ({ revision: record.revision, formula }),
  put: (record, formula) =>
    answered(
      api.PUT('/api/formulas/{formula_id}', { ...at(record.id), body: { revision: record.revision, formula } }),
    ),
  get: (record) => answered(api.GET('/api/formulas/{formula_id}', at(record.id))),
};

/** The formula being worked on: edits with undo, and an autosave whose state is always known. */
export function useDraft(loaded: FormulaRecord) {
  const { content: formula, amend, ...draft } = useKept(loaded, keeper);
  const versioned = useCallback(
    (number: number) => amend((record) => ({ ...record, latest_version: number })),
    [amend],
  );
  return { ...draft, formula, versioned };
}

export type Draft = ReturnType<typeof useDraft>;
