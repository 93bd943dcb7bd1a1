import { Button } from '@mantine/core';
import { useDebouncedValue, useDocumentTitle, useHotkeys } from '@mantine/hooks';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Link, useNavigate, useParams } from 'react-router';

import { answered, api } from '../api/client';
import type { PreparationRecord, PreparationReport } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { useTellFailure } from '../app/showFailure';
import batch from '../batch/Batch.module.css';
import buttons from '../design/buttons.module.css';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { Advice } from '../design/Sentence';
import { ConflictDialog } from '../sync/ConflictDialog';
import { SavedMark } from '../sync/SavedMark';
import { UndoRedo } from '../sync/UndoRedo';
import { StayGuard } from '../sync/StayGuard';
import { DilutionFields } from './DilutionFields';
import { DilutedPanel } from './DilutedPanel';
import { BlendFields, LyeFields, RebatchFields } from './OtherFields';
import classes from './Preparations.module.css';
import { PreparationContext, usePreparation, usePreparationDraft } from './usePreparation';
import { Weights } from './Weights';

const QUIET_MS = 80;

/** A preparation, planned: what goes in, what follows, and whether all is ready. */
export function PreparationPlan() {
  const { preparationId = '' } = useParams();
  const { data, error, isFetchedAfterMount } = useQuery({
    queryKey: ['preparation', preparationId],
    queryFn: () => answered(api.GET('/api/preparations/{preparation_id}', { params: { path: { preparation_id: preparationId } } })),
    refetchOnMount: 'always',
    refetchOnReconnect: false,
  });
  if (error !== null) return <Missing title="This cannot be opened" message={error.message} />;
  if (!isFetchedAfterMount || data === undefined) return <Pending />;
  return data.is_begun ? <Begun record={data} /> : <Open loaded={data} />;
}

function Begun({ record }: { record: PreparationRecord }) {
  return (
    <div className={columns.page}>
      <div className={heads.header}>
        <h1>
          {record.plan.name}, {record.code}
        </h1>
      </div>
      <p>It is begun, so its plan stays as it is.</p>
      <Button component={Link} to={`/preparations/${record.id}/make`} variant="filled">
        Go on with it
      </Button>
    </div>
  );
}

function Open({ loaded }: { loaded: PreparationRecord }) {
  const draft = usePreparationDraft(loaded);
  const { plan, record } = draft;
  const [settled] = useDebouncedValue(plan, QUIET_MS);
  const { data: report } = useQuery({
    queryKey: ['preparation-report', record.id, settled],
    queryFn: () => answered(api.POST('/api/preparations/report', { body: { preparation_id: record.id, plan: settled } })),
    placeholderData: keepPreviousData,
  });
  const problems = useMemo(() => (settled === plan ? (report?.problems ?? []) : []), [report, settled, plan]);
  const state = useMemo(() => ({ draft, report, problems }), [draft, report, problems]);
  const navigate = useNavigate();
  const tellFailure = useTellFailure();
  useDocumentTitle(`${plan.name}, ${record.code} · Sapolin`);
  useHotkeys([['mod+S', draft.saveNow]], []);
  useHotkeys([
    ['mod+Z', draft.undo],
    ['mod+shift+Z', draft.redo],
    ['mod+Y', draft.redo],
  ]);
  const stops = report?.prepared?.diagnostics.some((one) => one.stops !== '') ?? false;
  const isReady = report?.prepared != null && settled === plan && Object.keys(draft.unread).length === 0 && !stops;
  const load = () => answered(api.GET('/api/preparations/{preparation_id}', { params: { path: { preparation_id: record.id } } }));
  return (
    <PreparationContext value={state}>
      <div className={columns.page}>
        <div className={heads.header}>
          <h1>{plan.name}</h1>
          <span className="muted">
            {record.code} ·{' '}
            <Link to="/preparations" className={buttons.link}>
              paste and other work
            </Link>
          </span>
          <span className={batch.spring} />
          <SavedMark save={draft.save} savedAt={record.updated_at} unreadCount={Object.keys(draft.unread).length} />
          <UndoRedo draft={draft} />
          <Button
            variant="filled"
            disabled={!isReady}
            data-testid="to-make"
            onClick={() => void draft.saved().then(() => navigate(`/preparations/${record.id}/make`)).catch(tellFailure)}
          >
            Make it
          </Button>
        </div>
        <div className={heads.sides}>
          <div className={columns.column}>
            {plan.kind === 'dilution' && <DilutionFields plan={plan} />}
            {plan.kind === 'rebatch' && <RebatchFields plan={plan} />}
            {plan.kind === 'master_lye' && <LyeFields plan={plan} />}
            {plan.kind === 'master_blend' && <BlendFields plan={plan} />}
          </div>
          <div className={columns.column}>
            {report?.prepared ? <Follows prepared={report.prepared} /> : <StillOpen />}
          </div>
        </div>
        <StayGuard when={draft.isLosable} what={`What was changed of ${record.code}`} />
        <ConflictDialog
          opened={draft.save.kind === 'conflict'}
          name={record.code}
          copyLabel="Keep mine as a plan of its own"
          load={load}
          onCopy={async () => {
            const copy = await answered(api.POST('/api/preparations', { body: plan }));
            draft.takeTheirs(await load());
            void navigate(`/preparations/${copy.id}`);
          }}
          onTheirs={(theirs) => draft.takeTheirs(theirs)}
          onMine={draft.keepMine}
          isFinal={(theirs) => theirs.is_begun}
        />
      </div>
    </PreparationContext>
  );
}

function Follows({ prepared }: { prepared: NonNullable<PreparationReport['prepared']> }) {
  return (
    <>
      {prepared.diagnostics.length > 0 && (
        <Panel title="Before it is made">
          <ul className={classes.found} data-testid="readiness">
            {prepared.diagnostics.map((one) => (
              <li key={one.code + one.path} data-severity={one.severity}>
                <Advice of={one} />
              </li>
            ))}
          </ul>
        </Panel>
      )}
      <Weights prepared={prepared} />
      {prepared.diluted && <DilutedPanel diluted={prepared.diluted} />}
    </>
  );
}

/** What is still missing, calmly; what cannot be is said at its entry. */
function StillOpen() {
  const { problems } = usePreparation();
  return (
    <Panel title="What follows">
      <ul className={classes.found}>
        {problems.map((one) => (
          <li key={one.code + one.path} data-severity={one.is_open ? 'note' : one.severity}>
            <Advice of={one} />
          </li>
        ))}
      </ul>
    </Panel>
  );
}
