import { createContext, use } from 'react';

import { answered, api } from '../api/client';
import type { BatchPlan, BatchRecord, Diagnostic, PreparedBatch } from '../api/types';
import type { Keeper } from '../sync/draft';
import { useKept } from '../sync/useKept';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber, type Parsed } from '../design/quantity';
import { saidOf } from '../design/units';

const keeper: Keeper<BatchRecord, BatchPlan> = {
  id: (record) => record.id,
  name: (plan) => `${plan.formula.name}, a batch`,
  revision: (record) => record.revision,
  content: (record) => record.plan,
  path: (record) => `/api/batches/${record.id}`,
  body: (record, plan) => ({ revision: record.revision, plan }),
  put: (record, plan) =>
    answered(
      api.PUT('/api/batches/{batch_id}', {
        params: { path: { batch_id: record.id } },
        body: { revision: record.revision, plan },
      }),
    ),
  get: (record) => answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: record.id } } })),
};

/** The plan being worked on: edits with undo, and an autosave whose state is always known. */
export function useBatchDraft(loaded: BatchRecord) {
  const { content: plan, ...draft } = useKept(loaded, keeper);
  return { ...draft, plan };
}

export interface BatchState {
  draft: ReturnType<typeof useBatchDraft>;
  /** The plan calculated; the last good one while it cannot be. */
  work: PreparedBatch | null;
  /** `work` does not belong to what is entered now. */
  isStale: boolean;
  problems: Diagnostic[];
}

export const BatchContext = createContext<BatchState | null>(null);

export function useBatch(): BatchState {
  const batch = use(BatchContext);
  if (batch === null) throw new Error('useBatch outside the batch');
  return batch;
}

interface PlanNumberProps {
  label: string;
  /** Path of the entry in the plan; also its test id. */
  field: string;
  value: number | null | undefined;
  unit: string;
  step: number;
  change: (plan: BatchPlan, value: number | null) => BatchPlan;
  format?: (value: number) => string;
  parse?: (text: string) => Parsed;
  showLabel?: boolean;
  /** What holds while nothing is entered. */
  placeholder?: string;
}

/** A number of the plan: typed, stepped, undone, and told what is wrong with it. */
export function PlanNumber(props: PlanNumberProps) {
  const { draft, problems } = useBatch();
  const { field, change, format = (shown) => formatNumber(shown, 2, 0), parse = parseNumber, showLabel = true } = props;
  const found = problems.find((problem) => problem.path === field);
  return (
    <NumberField
      showLabel={showLabel}
      label={props.label}
      value={props.value ?? null}
      unit={props.unit}
      format={format}
      parse={parse}
      unread={draft.unread[field]}
      onUnread={(text) => draft.setUnread(field, text)}
      onChange={(next) => draft.edit((now) => change(now, next), field)}
      onLeave={draft.closeStep}
      step={props.step}
      problem={found && saidOf(found)}
      offers={found?.offers}
      testId={field}
      placeholder={props.placeholder}
    />
  );
}
