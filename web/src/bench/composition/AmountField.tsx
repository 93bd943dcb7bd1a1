import type { Formula } from '../../api/types';
import { formatNumber, parseNumber, parseWeight } from '../../design/quantity';
import { useSettings } from '../../app/settings';
import { SetNumber } from './SetNumber';

interface AmountFieldProps {
  /** Of what, for screen readers. */
  name: string;
  field: string;
  byWeight: boolean;
  /** In level teaspoons for 500 g of oils. */
  bySpoon?: boolean;
  value: number | null;
  change: (formula: Formula, value: number | null) => Formula;
}

/** An amount as a percentage or a weight. */
export function AmountField({ name, field, byWeight, bySpoon = false, value, change }: AmountFieldProps) {
  const { weightUnit, weightUnits } = useSettings();
  return (
    <SetNumber
      showLabel={false}
      label={byWeight ? `${name}, weight in ${weightUnit.name}` : bySpoon ? `${name}, teaspoons for 500 g of oils` : `${name}, percent`}
      field={field}
      value={value}
      unit={byWeight ? weightUnit.id : bySpoon ? 'tsp' : '%'}
      step={byWeight ? weightUnit.grams : bySpoon ? 0.25 : 0.5}
      format={(shown) => (byWeight ? formatNumber(shown / weightUnit.grams, weightUnit.decimals) : formatNumber(shown, 2, 1))}
      parse={byWeight ? (text) => parseWeight(text, weightUnit.id, weightUnits) : parseNumber}
      change={change}
    />
  );
}
