import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { useWeights } from '../design/units';
import classes from './Cure.module.css';
import { useCuring } from './useCure';

/** What the batch cost in materials, by the lots it was really taken from. */
export function Cost() {
  const { view } = useCuring();
  const weights = useWeights();
  const { data: cost } = useQuery({
    queryKey: ['cost', view.batch_id, view.state.seq],
    queryFn: () => answered(api.GET('/api/stock/cost/{batch_id}', { params: { path: { batch_id: view.batch_id } } })),
  });
  if (cost === undefined || cost.lines.length === 0) return null;
  return (
    <Panel title="What it cost" aside="materials, by the lots taken">
      <ul className={classes.cost} data-testid="cost">
        {cost.lines.map((line) => (
          <li key={line.material}>
            <span>
              {line.name} <small>{`${weights.tell(line.grams)} of ${line.lots.join(', ')}`}</small>
            </span>
            <b>{line.cost === null ? 'no price' : formatNumber(line.cost, 2)}</b>
            <i aria-hidden style={{ width: `${line.percent ?? 0}%` }} />
          </li>
        ))}
      </ul>
      <p className={classes.lead}>
        Together <b>{formatNumber(cost.total, 2)}</b>
        {cost.per_bar !== null && (
          <>
            , <b data-testid="cost-per-bar">{formatNumber(cost.per_bar, 2)}</b> for each of {cost.good_bars} good bars
          </>
        )}
        {cost.unpriced.length > 0 && `; without a price: ${cost.unpriced.join(', ')}`}. Without scent, packaging and time where no lot of them is kept.
      </p>
    </Panel>
  );
}
