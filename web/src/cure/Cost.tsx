import { Button } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { useIsLimited } from '../api/queries';
import type { BatchCost } from '../api/types';
import buttons from '../design/buttons.module.css';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { useWeights } from '../design/units';
import { Asked } from './Asked';
import { CostRates } from './CostRates';
import classes from './Cure.module.css';
import { useCuring } from './useCure';

const PARTS: Record<BatchCost['parts'][number]['part'], string> = {
  oil: 'oils', lye: 'lye', liquid: 'liquids', additive: 'additives', scent: 'scent', colorant: 'colour', packaging: 'packaging', energy: 'energy', time: 'time',
};
const TONES: Record<BatchCost['parts'][number]['part'], string> = {
  oil: 'var(--tone-palmitic)', lye: 'var(--tone-linoleic)', liquid: 'var(--tone-ricinoleic)', additive: 'var(--tone-oleic)', scent: 'var(--tone-linolenic)', colorant: 'var(--tone-lauric)', packaging: 'var(--tone-stearic)', energy: 'var(--highlight)', time: 'var(--in-range)',
};

/** What the batch cost: by the lots it was really taken from, with packaging, energy and time; for each good bar, and its price. */
export function Cost() {
  const { view } = useCuring();
  const client = useQueryClient();
  const weights = useWeights();
  const [isSetting, setSetting] = useState(false);
  const path = { params: { path: { batch_id: view.batch_id } } };
  const key = ['cost', view.batch_id, view.state.seq];
  const isLimited = useIsLimited();
  const { data: cost } = useQuery({ enabled: !isLimited, queryKey: key, queryFn: () => answered(api.GET('/api/stock/cost/{batch_id}', path)) });
  const book = useMutation({
    mutationFn: () => answered(api.POST('/api/stock/cost/{batch_id}/packaging', path)),
    onSuccess: (next) => {
      client.setQueryData(key, next);
      void client.invalidateQueries({ queryKey: ['stock'] });
    },
  });
  if (cost === undefined || (cost.lines.length === 0 && cost.planned.total === 0)) return null;
  const { actual, planned, rates } = cost;
  const money = (value: number) => `${formatNumber(value, 2)}${rates.currency && ` ${rates.currency}`}`;
  // A price that is missing makes it dearer than is said; where all are missing nothing is said.
  const cared = (value: number | null | undefined) =>
    !cost.materials_known ? 'not known' : value == null ? '–' : `${cost.unpriced.length > 0 ? 'at least ' : ''}${money(value)}`;
  const problem = book.error instanceof ApiFailure ? (book.error.problems[0] ?? null) : null;
  return (
    <Panel
      title="What it cost"
      aside={
        <button type="button" className={buttons.link} onClick={() => setSetting(true)} data-testid="cost-rates">
          rates and margin
        </button>
      }
    >
      <div className={classes.costTiles}>
        <p>
          <small>a good bar</small>
          <b data-testid="cost-per-bar">{cared(actual.per_bar)}</b>
        </p>
        <p>
          <small>its price, {formatNumber(rates.margin_percent, 0)} % margin</small>
          <b data-testid="cost-price">{cared(cost.price)}</b>
        </p>
      </div>
      {cost.parts.length > 0 && (
        <>
          <div className={classes.costParts} role="img" aria-label={cost.parts.map((part) => `${PARTS[part.part]} ${formatNumber(part.percent, 0)} %`).join(', ')}>
            {cost.parts.map((part) => (
              <i key={part.part} style={{ width: `${part.percent}%`, background: TONES[part.part] }} />
            ))}
          </div>
          <ul className={classes.costKey}>
            {cost.parts.map((part) => (
              <li key={part.part}>
                <i style={{ background: TONES[part.part] }} aria-hidden />
                {PARTS[part.part]} {money(part.cost)} <small>{formatNumber(part.percent, 0)} %</small>
              </li>
            ))}
          </ul>
        </>
      )}
      <table className={classes.costTable}>
        <thead>
          <tr>
            <td />
            <th>planned</th>
            <th>actual</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th>all of it</th>
            <td>{money(planned.total)}</td>
            <td data-testid="cost-total">{cared(actual.total)}</td>
          </tr>
          <tr>
            <th>good bars</th>
            <td>{planned.bars}</td>
            <td>{actual.bars}</td>
          </tr>
          <tr>
            <th>each</th>
            <td>{planned.per_bar === null ? '–' : money(planned.per_bar)}</td>
            <td>{cared(actual.per_bar)}</td>
          </tr>
          <tr>
            <th>100 g, cured</th>
            <td>{planned.per_100_g === null ? '–' : money(planned.per_100_g)}</td>
            <td>{cared(actual.per_100_g)}</td>
          </tr>
        </tbody>
      </table>
      <details className={classes.costLines}>
        <summary>Material by material</summary>
        <ul className={classes.cost} data-testid="cost">
          {cost.lines.map((line) => (
            <li key={line.material}>
              <span>
                {line.name} <small>{`${line.kind === 'packaging' ? `${formatNumber(line.grams, 0)} pcs` : weights.tell(line.grams)} of ${line.lots.join(', ')}`}</small>
              </span>
              <b>{line.cost === null ? 'no price' : formatNumber(line.cost, 2)}</b>
              <i aria-hidden style={{ width: `${line.percent ?? 0}%` }} />
            </li>
          ))}
        </ul>
      </details>
      {cost.packaging_open > 0 && actual.bars > 0 && (
        <Button mt={8} loading={book.isPending} onClick={() => book.mutate()} data-testid="book-packaging">
          Take {formatNumber(cost.packaging_open, 0)} pieces of packaging from the shelf
        </Button>
      )}
      <Asked problem={problem} />
      <p className={classes.lead}>
        {cost.unpriced.length > 0 && `Without a price: ${cost.unpriced.join(', ')}. `}
        {cost.planned_unpriced.length > 0 && `The plan leaves out, for want of a price: ${cost.planned_unpriced.join(', ')}. `}
        {actual.minutes > 0 && `${formatNumber(actual.minutes, 0)} minutes count, ${cost.minutes_by_record ? 'by the record of make day' : 'the usual ones'}. `}
        Seconds and samples are paid by the good bars.
      </p>
      {isSetting && <CostRates rates={rates} onClose={() => setSetting(false)} />}
    </Panel>
  );
}
