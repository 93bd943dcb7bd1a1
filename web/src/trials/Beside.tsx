import { Select } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Link, useNavigate, useParams } from 'react-router';

import { answered, api } from '../api/client';
import type { CureView, TestsView } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { PictureRow } from '../cure/Pictures';
import curing from '../cure/Cure.module.css';
import columns from '../design/columns.module.css';
import { shortDate } from '../design/dates';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { useWeights } from '../design/units';
import classes from './Trials.module.css';

const NONE = '–';
const HOW: Record<string, string> = { clean: 'came out clean', stuck: 'stuck', broke: 'broke' };

/** Two batches side by side after their pour: pattern, pictures, what was seen, drying, sheets. */
export function Beside() {
  const { batchId = '', otherId = '' } = useParams();
  const navigate = useNavigate();
  const { data: list } = useQuery({ queryKey: ['batches', 'made'], queryFn: () => answered(api.GET('/api/batches', { params: { query: { status: ['made'], limit: 200 } } })) });
  const one = useBatch(batchId);
  const other = useBatch(otherId);
  useDocumentTitle('Side by side · Sapolin');
  const error = one.error ?? other.error;
  if (error !== null) return <Missing title="These batches cannot be shown side by side" message={error.message} />;
  const batches = (list?.batches ?? []).map((batch) => ({ value: batch.id, label: `${batch.code} ${batch.name}` }));
  const pick = (first: string, second: string) => void navigate(`/batches/${first}/beside/${second}`, { replace: true });
  return (
    <div className={columns.page}>
      <div className={heads.top}>
        <h1>Side by side</h1>
      </div>
      <Panel title="Two batches after their pour">
        <div className={classes.pair}>
          <Select aria-label="First batch" data={batches} value={batchId} onChange={(id) => id !== null && pick(id, otherId)} searchable />
          <Select aria-label="Second batch" placeholder="Choose a batch" data={batches.filter((batch) => batch.value !== batchId)} value={otherId === batchId ? null : otherId} onChange={(id) => id !== null && pick(batchId, id)} searchable data-testid="beside" />
        </div>
        {otherId !== batchId && one.cure && one.tests && other.cure && other.tests ? <Table cures={[one.cure, other.cure]} tests={[one.tests, other.tests]} /> : otherId === batchId ? <p className="muted">Choose the second batch.</p> : <Pending />}
      </Panel>
    </div>
  );
}

function useBatch(id: string) {
  const cure = useQuery({ queryKey: ['cure', id], queryFn: () => answered(api.GET('/api/batches/{batch_id}/cure', { params: { path: { batch_id: id } } })) });
  const tests = useQuery({ queryKey: ['tests', id], queryFn: () => answered(api.GET('/api/batches/{batch_id}/tests', { params: { path: { batch_id: id } } })) });
  return { cure: cure.data, tests: tests.data, error: cure.error ?? tests.error };
}

function Table({ cures, tests }: { cures: CureView[]; tests: TestsView[] }) {
  const weights = useWeights();
  const rows: [string, (cure: CureView, tests: TestsView) => ReactNode][] = [
    ['Batch', (cure) => <Link to={`/batches/${cure.batch_id}/cure`}>{`${cure.code} ${cure.name}`}</Link>],
    ['Poured', (cure) => (cure.poured_at === null ? NONE : shortDate(cure.poured_at))],
    ['Pattern or technique', (cure) => cure.state.pattern || NONE],
    ['Pictures', (cure) => (cure.state.pictures.length === 0 ? NONE : <span className={curing.pictures}><PictureRow view={cure} /></span>)],
    ['Unmoulded', (cure) => (cure.state.unmoulded_at === null || cure.poured_at === null ? NONE : `after ${formatNumber((new Date(cure.state.unmoulded_at).getTime() - new Date(cure.poured_at).getTime()) / 3_600_000, 0)} h${cure.state.unmoulded_how === null ? '' : `, ${HOW[cure.state.unmoulded_how] ?? cure.state.unmoulded_how}`}`)],
    ['Bars', (cure) => (cure.state.cut_at === null ? NONE : `${cure.state.bars}${cure.state.seconds > 0 ? `, seconds: ${cure.state.seconds}` : ''}`)],
    ['Seen', (cure) => (cure.faults.length === 0 ? 'nothing recorded' : cure.faults.map((fault) => fault.symptom.name).join(', '))],
    ['A bar once dry', (cure) => (cure.drying === null ? NONE : weights.tell(cure.drying.end_g))],
    ['Ready', (cure) => (cure.ready_at === null ? NONE : shortDate(cure.ready_at))],
    ['Test before use', (cure) => (cure.state.fit?.ph == null ? cure.fit : `pH ${formatNumber(cure.state.fit.ph, 1)}, ${cure.fit}`)],
  ];
  const judged = (tests[0]?.criteria ?? []).filter((one) => tests.some((batch) => batch.ages.some((age) => one.id in age.scores)));
  return (
    <div className={classes.wide}>
      <table className={classes.ages} data-testid="side-by-side">
        <tbody>
          {rows.map(([label, of]) => (
            <tr key={label}>
              <th scope="row">{label}</th>
              {cures.map((cure, i) => (
                <td key={i}>{tests[i] !== undefined && of(cure, tests[i])}</td>
              ))}
            </tr>
          ))}
          {judged.map((one) => (
            <tr key={one.id}>
              <th scope="row">{one.name}</th>
              {tests.map((batch, i) => (
                <td key={i}>
                  {batch.ages.filter((age) => one.id in age.scores).map((age) => (
                    <span key={age.age_weeks}>
                      {formatNumber(age.scores[one.id] ?? 0, 1)} {one.words[Math.round(age.scores[one.id] ?? 1) - 1]}
                      <small>at {formatNumber(age.age_weeks, 0)} weeks</small>
                    </span>
                  ))}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
