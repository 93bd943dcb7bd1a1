import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber } from '../design/quantity';
import { useWeights } from '../design/units';
import type { Typed } from './typed';

interface AmountProps {
  label: string;
  value: Typed;
  onChange: (value: Typed) => void;
  unit?: string;
  decimals?: number;
  step?: number;
  placeholder?: string;
  testId?: string;
}

/** A number to be recorded: empty until it is typed. */
export function Amount({ label, value, onChange, unit = '', decimals = 0, step = 1, placeholder, testId }: AmountProps) {
  return (
    <NumberField
      label={label}
      showLabel
      value={value.value}
      unit={unit}
      step={step}
      format={(shown) => formatNumber(shown, decimals, 0)}
      parse={parseNumber}
      unread={value.unread}
      onUnread={(unread) => onChange({ value: null, unread: unread ?? undefined })}
      onChange={(next) => onChange({ value: next })}
      placeholder={placeholder}
      testId={testId}
    />
  );
}

/** A weight to be recorded, in the maker's unit; grams inside. */
export function WeightAmount({ label, value, onChange, placeholder, testId }: Omit<AmountProps, 'unit' | 'decimals' | 'step'>) {
  const weights = useWeights();
  return (
    <NumberField
      label={label}
      showLabel
      value={value.value}
      unit={weights.unit}
      step={1}
      format={(grams) => weights.format(grams, 1)}
      parse={weights.parse}
      unread={value.unread}
      onUnread={(unread) => onChange({ value: null, unread: unread ?? undefined })}
      onChange={(next) => onChange({ value: next })}
      placeholder={placeholder}
      testId={testId}
    />
  );
}
