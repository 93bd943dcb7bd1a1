import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../../api/client';
import { formatNumber } from '../../shared/quantity';
import { useSettings } from '../../shared/settings';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';
import { Reading } from './Reading';

/** Quick readings that makers use beside the qualities. */
export function ReadingsTab() {
  const { live } = useBench();
  const { weightUnit } = useSettings();
  const { data: cost } = useQuery({
    queryKey: ['cost', live.of],
    queryFn: () => (live.of ? answered(api.POST('/api/prices/cost', { body: live.of })) : null),
    enabled: live.of !== null,
    placeholderData: (previous) => previous,
  });
  const { figures, freshness } = live;
  const isStale = freshness === 'stopped' || freshness === 'unreachable';
  const readings = figures?.readings;
  const whole = (value: number | undefined) => (value === undefined ? '–' : formatNumber(value, 0));
  return (
    <div className={`${classes.readings} ${isStale ? 'stale' : ''}`}>
      <Reading label="Saturated : unsat." figure="saturated_percent">
        {whole(readings?.saturated_percent)} : {whole(readings?.unsaturated_percent)}
      </Reading>
      <Reading label="Iodine value" figure="iodine_value">
        {whole(readings?.iodine_value)}
      </Reading>
      <Reading label="INS (secondary)" figure="ins">
        {whole(readings?.ins)}
      </Reading>
      <Reading label="Hard : soft oils" figure="hard_percent">
        {whole(readings?.hard_percent)} : {whole(readings?.soft_percent)}
      </Reading>
      <Reading label="SAP of the blend" figure="sap_koh_mg_per_g">
        {readings === undefined ? '–' : formatNumber(readings.sap_koh_mg_per_g, 1)}
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
      <Reading label="Batter" figure="batter_g">
        {figures === null ? '–' : formatNumber(figures.weighing.batter, figures.weighing.decimals)}
        <span> {weightUnit.id}</span>
      </Reading>
    </div>
  );
}
