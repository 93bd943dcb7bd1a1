import { createContext, use } from 'react';

import { answered, api } from '../api/client';
import type { LabelDesign, LabelView } from '../api/types';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber } from '../design/quantity';
import { saidOf } from '../design/units';
import type { Keeper } from '../sync/draft';
import { useKept } from '../sync/useKept';

export const batchAt = (batchId: string) => ({ params: { path: { batch_id: batchId } } });

const keeper: Keeper<LabelView, LabelDesign> = {
  id: (record) => `label-${record.batch_id}`,
  name: (design) => `the label of ${design.name}`,
  revision: (record) => record.revision,
  content: (record) => record.design,
  path: (record) => `/api/labels/${record.batch_id}`,
  body: (record, design) => ({ revision: record.revision, design }),
  put: (record, design) => answered(api.PUT('/api/labels/{batch_id}', { ...batchAt(record.batch_id), body: { revision: record.revision, design } })),
  get: (record) => answered(api.GET('/api/labels/{batch_id}', batchAt(record.batch_id))),
};

/** The label being worked on: edits with undo, and an autosave whose state is always known. */
export function useLabelDraft(loaded: LabelView) {
  const { content: design, ...draft } = useKept(loaded, keeper);
  return { ...draft, design };
}

interface LabelState {
  draft: ReturnType<typeof useLabelDraft>;
  /** What follows from the design; of the last good one while it is calculated. */
  view: LabelView;
  change: (part: Partial<LabelDesign>, mergeKey?: string) => void;
}

export const LabelContext = createContext<LabelState | null>(null);

export function useLabel(): LabelState {
  const label = use(LabelContext);
  if (label === null) throw new Error('useLabel outside the label');
  return label;
}

interface LabelNumberProps {
  label: string;
  /** Path of the entry; also its test id. */
  field: string;
  value: number | null | undefined;
  unit?: string;
  step?: number;
  placeholder?: string;
  onChange: (value: number) => void;
  /** What an emptied box means; without it a number has to be entered, and the one before holds until then. */
  onEmpty?: () => void;
}

/** A number of the label, told what is wrong with it. */
export function LabelNumber({ label, field, value, unit = 'mm', step = 1, placeholder, onChange, onEmpty }: LabelNumberProps) {
  const { draft, view } = useLabel();
  const problem = view.diagnostics.find((one) => one.path === field && one.stops !== '');
  return (
    <NumberField
      label={label}
      showLabel
      value={value ?? null}
      unit={unit}
      step={step}
      format={(shown) => formatNumber(shown, 1, 0)}
      parse={parseNumber}
      unread={draft.unread[field]}
      onUnread={(text) => draft.setUnread(field, text)}
      onChange={(next) => {
        if (next !== null) onChange(next);
        else if (onEmpty) onEmpty();
        else draft.setUnread(field, '');
      }}
      onLeave={draft.closeStep}
      problem={problem && saidOf(problem)}
      placeholder={placeholder}
      testId={field}
    />
  );
}
