import type { Reckoning } from '../../api/types';
import { formatNumber } from '../../shared/quantity';
import { useWeights } from '../../shared/units';

/** What an acid does to the lye, whether it is added back or not. */
export function AddedBack({ eaten }: { eaten: Reckoning['eaten'][number] | undefined }) {
  const weights = useWeights();
  return (
    <>
      Add the lye back
      {eaten &&
        (eaten.compensated
          ? `: ${weights.tell(eaten.naoh_equivalent_g, 1)} NaOH, as ${weights.tell(eaten.salt_g, 1)} ${eaten.salt}`
          : `; now the superfat rises ${formatNumber(eaten.superfat_points, 1)}`)}
    </>
  );
}
