import { createContext, use } from 'react';

import { answered, api } from '../api/client';
import type { Diagnostic, Preparation, PreparationRecord, PreparationReport } from '../api/types';
import type { Keeper } from '../sync/draft';
import { useKept } from '../sync/useKept';

const keeper: Keeper<PreparationRecord, Preparation> = {
  id: (record) => record.id,
  name: (plan) => plan.name,
  revision: (record) => record.revision,
  content: (record) => record.plan,
  path: (record) => `/api/preparations/${record.id}`,
  body: (record, plan) => ({ revision: record.revision, plan }),
  put: (record, plan) =>
    answered(
      api.PUT('/api/preparations/{preparation_id}', {
        params: { path: { preparation_id: record.id } },
        body: { revision: record.revision, plan },
      }),
    ),
  get: (record) => answered(api.GET('/api/preparations/{preparation_id}', { params: { path: { preparation_id: record.id } } })),
};

/** The plan of a preparation being worked on: edits with undo, and an autosave whose state is always known. */
export function usePreparationDraft(loaded: PreparationRecord) {
  const { content: plan, ...draft } = useKept(loaded, keeper);
  return { ...draft, plan };
}

export interface PreparationState {
  draft: ReturnType<typeof usePreparationDraft>;
  report: PreparationReport | undefined;
  problems: Diagnostic[];
}

export const PreparationContext = createContext<PreparationState | null>(null);

export function usePreparation(): PreparationState {
  const state = use(PreparationContext);
  if (state === null) throw new Error('usePreparation outside a preparation');
  return state;
}
