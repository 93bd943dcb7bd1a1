import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import { useNextTime } from '../api/queries';
import type { Diagnostic, StockMaterial } from '../api/types';
import { Panel } from '../design/Panel';
import { Advice } from '../design/Sentence';
import { useWeights } from '../design/units';
import { Heed } from '../history/Heed';
import classes from './Batch.module.css';
import { useBatch } from './BatchContext';

const WORDS: Record<Diagnostic['severity'], string> = { problem: '✕ problem', warning: '△ warning', note: 'note' };

/** What this batch needs and is short on the shelf, once all that is planned is counted; only of what lots are kept of. */
function useShort(batchId: string): StockMaterial[] {
  const { data } = useQuery({ queryKey: ['stock'], queryFn: ({ signal }) => answered(api.GET('/api/stock', { signal })), refetchOnMount: 'always' });
  return (data?.materials ?? []).filter((one) => one.lots.length > 0 && one.free_g < -0.05 && one.needs.some((need) => need.batch_id === batchId));
}

/** Whether all is ready: what is missing, what is doubtful, what this way of making it risks. */
export function ReadyPanel() {
  const { draft, work, isStale, problems } = useBatch();
  const nextTime = useNextTime(draft.plan.formula_id);
  const weights = useWeights();
  const short = useShort(draft.record.id);
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
            <Link to="/stock">Look at the lots</Link>, make a smaller batch, or <Link to={`/formulas/${draft.plan.formula_id}/swap?out=${one.material}`}>swap it</Link>.
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
