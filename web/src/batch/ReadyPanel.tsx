import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import { useNextTime } from '../api/queries';
import type { BatchPlan, Diagnostic, StockMaterial } from '../api/types';
import buttons from '../design/buttons.module.css';
import { Panel } from '../design/Panel';
import { Advice, Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import { Heed } from '../history/Heed';
import classes from './Batch.module.css';
import { useBatch } from './BatchContext';

const WORDS: Record<Diagnostic['severity'], string> = { problem: '✕ problem', warning: '△ warning', note: 'note' };

/** What this batch needs and is short on the shelf, once all that is planned is counted; only of what lots are kept of. */
function useShort(batchId: string): StockMaterial[] {
  const { data } = useQuery({ queryKey: ['stock'], queryFn: ({ signal }) => answered(api.GET('/api/stock', { signal })), refetchOnMount: 'always' });
  return (data?.materials ?? []).filter((one) => one.is_short && one.needs.some((need) => need.batch_id === batchId));
}

/** What the lots that come next say otherwise than the plan. */
function useOtherwise(plan: BatchPlan, canCalculate: boolean) {
  const { data } = useQuery({
    queryKey: ['plan-lots', plan.formula.lye, plan.formula.blend, plan.formula.materials],
    queryFn: ({ signal }) => answered(api.POST('/api/batch-plan/lots', { body: plan, signal })),
    enabled: canCalculate,
    retry: false,
    refetchOnMount: 'always',
  });
  return data ?? [];
}

/** Whether all is ready: what is missing, what is doubtful, what this way of making it risks. */
export function ReadyPanel() {
  const { draft, work, isStale, problems } = useBatch();
  const nextTime = useNextTime(draft.plan.formula_id);
  const weights = useWeights();
  const short = useShort(draft.record.id);
  const otherwise = useOtherwise(draft.plan, !isStale && problems.length === 0);
  const found = work?.diagnostics ?? [];
  const serious = found.filter((one) => one.severity !== 'note').length;
  let aside = 'nothing stands in the way';
  if (problems.length > 0) aside = `${problems.length} to enter or correct`;
  else if (serious > 0) aside = `${serious} to look at`;
  return (
    <Panel title="Ready?" aside={aside}>
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- what scrolls must be reached by keyboard */}
      <div className={classes.ready} tabIndex={0} role="group" aria-label="Is it ready?">
        <ul data-testid="readiness">
        {nextTime.map((note) => (
          <li key={note} data-severity="warning" data-testid="next-time-note">
            <span className={classes.level}>next time</span>
            <strong>{note}</strong>
            <Heed formulaId={draft.plan.formula_id} note={note} />
          </li>
        ))}
        {short.map((one) => (
          <li key={one.material} data-severity="warning" data-testid={`short-${one.material}`}>
            <span className={classes.level}>△ short</span>
            <strong>
              {one.name}: {weights.tell(-one.free_g)} too little on the shelf.
            </strong>{' '}
            <Link to="/stock/buying">Buy it</Link>, <Link to="/stock">look at the lots</Link>, {one.kind === 'oil' && <SmallerBatch one={one} />}
            or <Link to={`/formulas/${draft.plan.formula_id}/swap?out=${one.material}`}>swap it</Link>.
          </li>
        ))}
        {otherwise.map((lot) => (
          <li key={lot.name + lot.code} data-severity="warning" data-testid={`lot-says-${lot.code}`}>
            <span className={classes.level}>△ the shelf</span>
            <strong>{lot.name}.</strong> <Sentence>{lot.words}</Sentence>{' '}
            <button type="button" className={buttons.link} onClick={() => draft.edit(() => lot.plan)}>
              Plan with what the lot says
            </button>
          </li>
        ))}
        {problems.map((problem) => (
          <li key={problem.path + problem.code} data-severity="problem">
            <Advice of={problem} />
          </li>
        ))}
        {problems.length === 0 &&
          found.map((one) => (
            <li key={one.code + one.path + JSON.stringify(one.params)} data-severity={one.severity} className={isStale ? 'stale' : ''}>
              <span className={classes.level}>{WORDS[one.severity]}</span>
              <Advice of={one} />
            </li>
          ))}
        </ul>
      </div>
    </Panel>
  );
}

/** As much as what is left of the oil, less what other batches were promised of it, allows. */
function SmallerBatch({ one }: { one: StockMaterial }) {
  const { draft } = useBatch();
  const own = one.needs.find((need) => need.batch_id === draft.record.id)?.grams ?? 0;
  const left = one.free_g + own;
  if (left < 1) return null;
  return (
    <>
      <button
        type="button"
        className={buttons.link}
        onClick={() => draft.edit((now) => ({ ...now, size: { by: 'limiting', value: null, cured_bar_g: null, available_g: { [one.material]: Math.floor(left) } } }))}
        data-testid="smaller-batch"
      >
        make a smaller batch
      </button>
      ,{' '}
    </>
  );
}
