import { useDocumentTitle } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import { answered, api } from '../api/client';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { BatchStages } from '../batch/BatchStages';
import { useCure } from '../cure/useCure';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { formatNumber } from '../design/quantity';
import { ComparisonsPanel } from './ComparisonsPanel';
import { LessonPanel } from './LessonPanel';
import { PredictedPanel } from './PredictedPanel';
import { ScoreSheet } from './ScoreSheet';
import { SheetsPanel } from './SheetsPanel';
import classes from './Trials.module.css';
import { TrialsPanel } from './TrialsPanel';

/** The tests of a batch: judging its bars, what was predicted of them, blind comparisons, trials. */
export function Tests() {
  const { batchId = '' } = useParams();
  const { record, isSaved, isOffline } = useCure(batchId);
  const { data: tests, error } = useQuery({
    queryKey: ['tests', batchId],
    queryFn: ({ signal }) => answered(api.GET('/api/batches/{batch_id}/tests', { params: { path: { batch_id: batchId } }, signal })),
    refetchOnMount: 'always',
  });
  useDocumentTitle(tests ? `Tests of ${tests.code} · Sapolin` : 'Tests · Sapolin');
  if (error !== null && tests === undefined) return <Missing title="The tests of this batch cannot be shown" message={error.message} />;
  if (!tests) return <Pending />;
  return (
    <div className={columns.page}>
      <div className={heads.header}>
        <h1>
          {tests.name} <span className={classes.code}>{tests.code}</span>
        </h1>
        <BatchStages batchId={batchId} isBegun />
        <span className={classes.age} role="status" data-testid="tests-saved">
          {isSaved ? ageOf(tests.age_weeks) : isOffline ? 'No answer from the server; kept on this device, sent again' : 'Saving …'}
        </span>
      </div>
      <div className={columns.columns}>
        <div className={columns.column}>
          {tests.fit === 'fit' ? (
            <ScoreSheet tests={tests} record={record} />
          ) : (
            <p className={classes.gate} role="status">
              △ Nobody washes with a bar before it has passed its test: pH or zap, and looks. <Link to={`/batches/${batchId}/cure`}>Test one on the stage Cure</Link>.
            </p>
          )}
        </div>
        <div className={columns.column}>
          <PredictedPanel tests={tests} />
          <SheetsPanel tests={tests} record={record} />
        </div>
        <div className={columns.column}>
          <ComparisonsPanel tests={tests} />
          <TrialsPanel trials={tests.trials} formulaId={tests.formula_id} />
          <LessonPanel tests={tests} record={record} />
        </div>
      </div>
    </div>
  );
}

function ageOf(weeks: number | null): string {
  if (weeks === null) return 'not cut yet';
  if (weeks < 2) return `${formatNumber(7 * weeks, 0)} days old`;
  return weeks < 26 ? `${formatNumber(weeks, 0)} weeks old` : `${formatNumber(weeks / 4.345, 0)} months old`;
}
