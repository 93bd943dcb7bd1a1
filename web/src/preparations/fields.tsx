import { useState } from 'react';

import type { Preparation } from '../api/types';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber, parseWeight, type Parsed } from '../design/quantity';
import { useReference } from '../api/queries';
import { useSettings } from '../app/settings';
import { TextBox } from '../design/TextBox';
import { saidOf } from '../design/units';
import { usePreparation } from './usePreparation';

interface AmountProps<P extends Preparation> {
  label: string;
  /** Path of the entry in the plan; also its test id. */
  field: string;
  value: number | null | undefined;
  unit?: string;
  step?: number;
  change: (plan: P, value: number | null) => P;
  format?: (value: number) => string;
  parse?: (text: string) => Parsed;
  placeholder?: string;
}

/** A number of the plan: typed, stepped, undone, and told what is wrong with it. What is still to be entered is said beside. */
export function Amount<P extends Preparation>(props: AmountProps<P>) {
  const { draft, problems } = usePreparation();
  const { field, change, format = (shown) => formatNumber(shown, 2, 0), parse = parseNumber } = props;
  const found = problems.find((problem) => problem.path === field);
  return (
    <NumberField
      showLabel
      label={props.label}
      value={props.value ?? null}
      unit={props.unit ?? ''}
      step={props.step ?? 1}
      format={format}
      parse={parse}
      unread={draft.unread[field]}
      onUnread={(text) => draft.setUnread(field, text)}
      onChange={(next) => draft.edit((now) => change(now as P, next), field)}
      onLeave={draft.closeStep}
      problem={found && !found.is_open ? saidOf(found) : undefined}
      offers={found?.offers}
      testId={field}
      placeholder={props.placeholder}
    />
  );
}

/** A weight of the plan, in the maker's unit. */
export function WeightAmount<P extends Preparation>(props: Omit<AmountProps<P>, 'unit' | 'format' | 'parse'>) {
  const { weight_units: units } = useReference();
  const { weightUnit } = useSettings();
  return (
    <Amount<P>
      {...props}
      step={props.step ?? 10}
      unit={weightUnit.id}
      format={(grams) => formatNumber(grams / weightUnit.grams, weightUnit.decimals, 0)}
      parse={(text) => parseWeight(text, weightUnit.id, units)}
    />
  );
}

/** What it is called. Emptied, it says what is missing, and goes by its last name until there is a new one. */
export function NameField({ label }: { label: string }) {
  const { draft } = usePreparation();
  const [isEmptied, setEmptied] = useState(false);
  return (
    <TextBox
      label={label}
      value={isEmptied ? '' : draft.plan.name}
      maxLength={120}
      onChange={(name) => {
        setEmptied(name === '');
        if (name !== '') draft.edit((now) => ({ ...now, name }), 'name');
      }}
      onLeave={() => {
        setEmptied(false);
        draft.closeStep();
      }}
      problem={isEmptied ? `It needs a name. Until it has a new one it keeps “${draft.plan.name}”.` : undefined}
      testId="preparation-name"
    />
  );
}

/** The number typed behind a name (`lavender 0,8`); null without one. */
export function numberTyped(amount: string): number | null {
  const parsed = parseNumber(amount);
  return parsed.ok ? parsed.value : null;
}
