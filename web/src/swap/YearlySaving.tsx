import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import { formatNumber } from '../design/quantity';
import { useWeights } from '../design/units';

const WORTH_A_WORD = 0.5;

/** What the price of the new blend makes of a year's batches; nothing while none was made. */
export function YearlySaving({ formulaId, before, after }: { formulaId: string; before: number | null; after: number | null }) {
  const weights = useWeights();
  const { data: year } = useQuery({
    queryKey: ['year', formulaId],
    queryFn: () => answered(api.GET('/api/stock/year/{formula_id}', { params: { path: { formula_id: formulaId } } })),
  });
  if (year === undefined || year.batches === 0 || before === null || after === null) return null;
  const saves = ((before - after) * year.oils_g) / 1000;
  if (Math.abs(saves) < WORTH_A_WORD) return null;
  return (
    <p className="muted" data-testid="yearly-saving">
      {saves > 0 ? 'Saves' : 'Costs'} about {formatNumber(Math.abs(saves), 2)} {saves > 0 ? '' : 'more '}a year, by the {weights.tell(year.oils_g)} of oils in {year.batches} {year.batches === 1 ? 'batch' : 'batches'} of the last year.
    </p>
  );
}
