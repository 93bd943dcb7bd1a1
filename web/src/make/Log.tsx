import { Button } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useMemo } from 'react';
import { useParams } from 'react-router';

import { Missing } from '../app/Missing';
import { BatchStages } from '../batch/BatchStages';
import { useSheetAddress } from '../batch/useSheetAddress';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { MakeContext, WorkContext } from './MakeContext';
import { workOf } from './workOf';
import { NotesPanel } from './NotesPanel';
import { Record } from './RecordDialog';
import { useRun } from './useRun';

/** What is on record of a batch: every entry with its time, its notes and pictures, and its papers. */
export function Log() {
  const { batchId = '' } = useParams();
  const { run, error, send, tare } = useRun(batchId);
  const making = useMemo(() => (run ? { run, send, tare } : null), [run, send, tare]);
  const sheet = useSheetAddress(batchId);
  useDocumentTitle(run ? `Log of ${run.record.code} · Sapolin` : 'Log · Sapolin');
  if (error !== null && run === undefined) return <Missing title="There is no log of this batch" message={error.message} />;
  if (!run || !making) return null;
  return (
    <MakeContext value={making}>
      <WorkContext value={workOf(making)}>
      <div className={columns.page}>
        <div className={heads.header}>
          <h1>
            {run.record.plan.formula.name}, batch {run.record.code}
          </h1>
          <BatchStages batchId={batchId} isBegun={run.state.status !== 'planned'} />
          <Button component="a" href={sheet('pdf')} target="_blank">
            Print the sheet
          </Button>
        </div>
        <div className={heads.sides}>
          <Panel title="The record" aside={`${run.events} entries`}>
            <Record />
          </Panel>
          <NotesPanel />
        </div>
      </div>
      </WorkContext>
    </MakeContext>
  );
}
