import type { Reckoning } from '../../api/types';
import { formatNumber } from '../../shared/quantity';
import { useWeights } from '../../shared/units';
import classes from './Pot.module.css';

interface Props {
  isOn: boolean;
  onChange: (isOn: boolean) => void;
  /** What the acid does to the lye; undefined while that is being worked out. */
  eaten: Reckoning['eaten'][number] | undefined;
  testId: string;
}

/** Whether the lye that an acid takes is added back, and what that means. */
export function AddedBack({ isOn, onChange, eaten, testId }: Props) {
  const weights = useWeights();
  return (
    <label className={classes.check}>
      <input type="checkbox" checked={isOn} onChange={(event) => onChange(event.currentTarget.checked)} data-testid={testId} />
      <span>
        Add the lye back
        {eaten &&
          (eaten.compensated
            ? `: ${weights.tell(eaten.naoh_equivalent_g, 1)} NaOH, as ${weights.tell(eaten.salt_g, 1)} ${eaten.salt}`
            : `; now the superfat rises ${formatNumber(eaten.superfat_points, 1)}`)}
      </span>
    </label>
  );
}
