import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../../api/client';
import { formatNumber } from '../../design/quantity';
import { useSettings } from '../../app/settings';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';
import { Reading } from './Index';

/** Quick indices that makers use beside the qualities. */
export function IndicesTab() {
  const { live } = useBench();
  const { weightUnit } = useSettings();
  const { data: cost } = useQuery({
    queryKey: ['cost', live.of],
    queryFn: () => (live.of ? answered(api.POST('/api/prices/cost', { body: live.of })) : null),
    enabled: live.of !== null,
    placeholderData: (previous) => previous,
  });
  const { result, freshness } = live;
  const isStale = freshness === 'stopped' || freshness === 'unreachable';
  const indices = result?.indices;
  const whole = (value: number | undefined) => (value === undefined ? '–' : formatNumber(value, 0));
  return (
    <div className={`${classes.indices} ${isStale ? 'stale' : ''}`}>
      <Reading label="Saturated : unsat." quantity="saturated_percent">
        {whole(indices?.saturated_percent)} : {whole(indices?.unsaturated_percent)}
      </Reading>
      <Reading label="Iodine value" quantity="iodine_value">
        {whole(indices?.iodine_value)}
      </Reading>
      <Reading label="INS (secondary)" quantity="ins">
        {whole(indices?.ins)}
      </Reading>
      <Reading label="Hard : soft oils" quantity="hard_percent">
        {whole(indices?.hard_percent)} : {whole(indices?.soft_percent)}
      </Reading>
      <Reading label="SAP of the blend" quantity="sap_koh_mg_per_g">
        {indices === undefined ? '–' : formatNumber(indices.sap_koh_mg_per_g, 1)}
      </Reading>
      <div className={classes.fact} data-testid="oil-cost">
        <span className={classes.label}>Oils, per kg</span>
        <span className={classes.value}>
          {cost?.per_kg == null ? '–' : formatNumber(cost.per_kg, 2)}
          {cost?.total != null && <span> {formatNumber(cost.total, 2)} in all</span>}
        </span>
        {cost && cost.unpriced.length > 0 && (
          <span className={classes.label}>no price: {cost.unpriced.join(', ').toLowerCase()}</span>
        )}
      </div>
      <Reading label="Batter" quantity="batter_g">
        {result === null ? '–' : formatNumber(result.weights.batter, result.weights.decimals)}
        <span> {weightUnit.id}</span>
      </Reading>
    </div>
  );
}
