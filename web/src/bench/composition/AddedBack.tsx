import type { FormulaResult } from '../../api/types';
import { formatNumber } from '../../design/quantity';
import { useWeights } from '../../design/units';
import classes from './Composition.module.css';

interface Props {
  isOn: boolean;
  onChange: (isOn: boolean) => void;
  /** What the acid does to the lye; undefined while that is being calculated. */
  consumed: FormulaResult['consumed'][number] | undefined;
  testId: string;
}

/** Whether the lye that an acid takes is added back, and what that means. */
export function AddedBack({ isOn, onChange, consumed, testId }: Props) {
  const weights = useWeights();
  return (
    <label className={classes.check}>
      <input type="checkbox" checked={isOn} onChange={(event) => onChange(event.currentTarget.checked)} data-testid={testId} />
      <span>
        Add the lye back
        {consumed &&
          (consumed.compensated
            ? `: ${weights.tell(consumed.naoh_equivalent_g, 1)} NaOH, as ${weights.tell(consumed.salt_g, 1)} ${consumed.salt}`
            : `; now the superfat rises ${formatNumber(consumed.superfat_points, 1)}`)}
      </span>
    </label>
  );
}
