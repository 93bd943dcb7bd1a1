import type { Formula } from '../../api/types';
import { NumberField } from '../../design/NumberField';
import { formatNumber, parseNumber, type Parsed } from '../../design/quantity';
import { troubleAt, useBench } from '../BenchContext';

interface SetNumberProps {
  label: string;
  /** Path of the entry in the formula; also its test id. */
  field: string;
  value: number | null | undefined;
  unit?: string;
  step: number;
  change: (formula: Formula, value: number | null) => Formula;
  format?: (value: number) => string;
  parse?: (text: string) => Parsed;
  /** Marks the one of several linked fields that leads. */
  leading?: boolean;
  /** Word of the glossary that the label is. */
  term?: string;
  showLabel?: boolean;
  /** Where the server says what is wrong, when it is not `field`. */
  problemField?: string;
  testId?: string;
}

/** A number of the formula: typed, stepped, undone, and told what is wrong with it. */
export function SetNumber({
  label,
  field,
  value,
  unit = '%',
  step,
  change,
  format = (shown) => formatNumber(shown, 2, 1),
  parse = parseNumber,
  leading,
  term,
  showLabel = true,
  problemField = field,
  testId = field,
}: SetNumberProps) {
  const { draft, live } = useBench();
  return (
    <NumberField
      showLabel={showLabel}
      leading={leading}
      term={term}
      label={label}
      value={value ?? null}
      unit={unit}
      format={format}
      parse={parse}
      unread={draft.unread[field]}
      onUnread={(text) => draft.setUnread(field, text)}
      onChange={(next) => draft.edit((now) => change(now, next), field)}
      onLeave={draft.closeStep}
      step={step}
      {...(problemField === '' ? {} : troubleAt(live.problems, problemField))}
      testId={testId}
    />
  );
}
