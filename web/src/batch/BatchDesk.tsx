import { Button, Menu } from '@mantine/core';
import { useDebouncedValue, useDocumentTitle, useHotkeys } from '@mantine/hooks';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useMemo, useState } from 'react';
import { Link, Navigate, useNavigate, useParams } from 'react-router';

import { answered, api, ApiFailure } from '../api/client';
import { at, useIsLimited } from '../api/queries';
import type { BatchRecord, PreparedBatch } from '../api/types';
import buttons from '../design/buttons.module.css';
import columns from '../design/columns.module.css';
import { useCommands, type Command } from '../app/commands';
import { MenuButton } from '../design/MenuButton';
import { ConflictDialog } from '../sync/ConflictDialog';
import { StayGuard } from '../sync/StayGuard';
import { SavedMark } from '../sync/SavedMark';
import { UndoRedo } from '../sync/UndoRedo';
import { Missing } from '../app/Missing';
import { useTellFailure } from '../app/showFailure';
import { AdditionsPanel } from './AdditionsPanel';
import { BatchStages } from './BatchStages';
import classes from './Batch.module.css';
import { BatchContext, useBatch, useBatchDraft } from './BatchContext';
import { ChoicesPanel } from './ChoicesPanel';
import { Cutting } from './Cutting';
import { ReadyPanel } from './ReadyPanel';
import { SizePanel } from './SizePanel';
import { useSheetAddress } from './useSheetAddress';
import { WeightsPanel } from './WeightsPanel';

const QUIET_MS = 80;

/** A batch, planned: how big, in which moulds, how it is made, and whether all is ready. */
export function BatchDesk() {
  const isLimited = useIsLimited();
  const { batchId = '' } = useParams();
  const { data, error, isFetchedAfterMount } = useQuery({
    queryKey: ['batch', batchId],
    queryFn: () => answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: batchId } } })),
    refetchOnMount: 'always',
    refetchOnReconnect: false,
  });
  // A device for make day has no use for a plan that it cannot change.
  if (isLimited) return <Navigate to={`/batches/${batchId}/make`} replace />;
  if (error !== null) return <Missing title="This batch cannot be opened" message={error.message} />;
  if (!isFetchedAfterMount || data === undefined) return null;
  return data.events > 0 ? <Begun record={data} /> : <OpenBatch loaded={data} />;
}

/** A batch that is begun no longer changes its plan. */
function Begun({ record }: { record: BatchRecord }) {
  const sheet = useSheetAddress(record.id);
  return (
    <div className={columns.page}>
      <div className={classes.header}>
        <h1 className={classes.title}>
          {record.plan.formula.name}, batch {record.code}
        </h1>
        <BatchStages batchId={record.id} isBegun />
      </div>
      <p>It is begun, so its plan stays as it is.</p>
      <p className={classes.row}>
        <Button component={Link} to={`/batches/${record.id}/make`} variant="filled">
          Go to make day
        </Button>
        <Button component="a" href={sheet('pdf')} target="_blank">
          Its sheet
        </Button>
      </p>
    </div>
  );
}

function OpenBatch({ loaded }: { loaded: BatchRecord }) {
  const draft = useBatchDraft(loaded);
  const { plan, record } = draft;
  const [settled] = useDebouncedValue(plan, QUIET_MS);
  const asked = useQuery({
    queryKey: ['batch-plan', settled],
    queryFn: () => answered(api.POST('/api/batch-plan/report', { body: settled })),
    placeholderData: keepPreviousData,
    retry: (count, failure) => count < 3 && failure instanceof ApiFailure && failure.status === 0,
  });
  const { data: live } = asked;
  const problems = useMemo(() => (settled === plan ? (live?.problems ?? []) : []), [live, settled, plan]);
  const isStopped = (live?.problems.length ?? 0) > 0;
  const isStale = settled !== plan || asked.isPlaceholderData || asked.error !== null || isStopped || Object.keys(draft.unread).length > 0;
  // While something stands in the way, the last good one stays.
  const [work, setWork] = useState<PreparedBatch | null>(null);
  if (live?.prepared && live.prepared !== work) setWork(live.prepared);
  const state = useMemo(() => ({ draft, work, isStale, problems }), [draft, work, isStale, problems]);
  const client = useQueryClient();
  const navigate = useNavigate();
  const sheet = useSheetAddress(record.id);
  useDocumentTitle(`Batch ${record.code}, ${plan.formula.name} · Sapolin`);
  useHotkeys([['mod+S', draft.saveNow]], []);
  // In a field it is the text that is undone, by the browser.
  useHotkeys([
    ['mod+Z', draft.undo],
    ['mod+shift+Z', draft.redo],
    ['mod+Y', draft.redo],
  ]);
  const { undo, redo, saved } = draft;
  const tellFailure = useTellFailure();
  // Make day begins the plan that is kept: it is led to once what is on screen is.
  const toMakeDay = useCallback(() => void saved().then(() => navigate(`/batches/${record.id}/make`), tellFailure), [saved, navigate, record.id, tellFailure]);
  useCommands(
    'batch',
    useMemo<Command[]>(
      () => [
        { id: 'undo', group: 'Batch', label: 'Undo', keys: 'mod+Z', run: undo },
        { id: 'redo', group: 'Batch', label: 'Redo', keys: 'mod+shift+Z', run: redo },
        { id: 'make', group: 'Batch', label: 'Go to make day', run: toMakeDay },
        { id: 'print', group: 'Batch', label: 'Open the sheet', run: () => window.open(sheet('pdf')) },
      ],
      [undo, redo, toMakeDay, sheet],
    ),
  );
  const isReady = problems.length === 0 && !isStale && work !== null;
  const stops = work?.diagnostics.some((one) => one.stops !== '') ?? false;
  const load = () => answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: record.id } } }));

  return (
    <BatchContext value={state}>
      <div className={columns.page}>
        <div className={classes.header}>
          <h1 className={classes.title}>{plan.formula.name}</h1>
          <BatchStages batchId={record.id} isBegun={false} />
          <span className="muted">
            batch {record.code} · {plan.version > 0 ? `version ${plan.version}` : 'from the draft'} ·{' '}
            <Link to={`/formulas/${plan.formula_id}`} className={buttons.link}>
              to its design
            </Link>
          </span>
          <FormulaMoved />
          <span className={classes.spring} />
          <SavedMark save={draft.save} savedAt={record.updated_at} unreadCount={Object.keys(draft.unread).length} />
          <UndoRedo draft={draft} />
          <MenuButton
            position="bottom-end"
            button={
              <Button disabled={!isReady} data-testid="sheet-menu">
                The sheet ▾
              </Button>
            }
          >
            <Menu.Item component={Link} to={`/batches/${record.id}/sheet`}>
              On screen
            </Menu.Item>
            <Menu.Item component="a" href={sheet('pdf', 'a4')} target="_blank">
              Print, A4
            </Menu.Item>
            <Menu.Item component="a" href={sheet('pdf', 'letter')} target="_blank">
              Print, Letter
            </Menu.Item>
            <Menu.Item component="a" href={sheet('md')} download>
              As Markdown
            </Menu.Item>
            <Menu.Item component="a" href={sheet('csv')} download>
              As CSV
            </Menu.Item>
          </MenuButton>
          <Button
            variant="filled"
            disabled={!isReady || stops}
            onClick={toMakeDay}
            data-testid="to-make-day"
          >
            Make day →
          </Button>
        </div>
        <StayGuard when={draft.isLosable} what={`What was changed of batch ${record.code}`} />
        <ConflictDialog
          opened={draft.save.kind === 'conflict'}
          name={`batch ${record.code}`}
          copyLabel="Keep mine as a batch of its own"
          load={load}
          onCopy={async () => {
            const copy = await answered(api.POST('/api/batches', { body: plan }));
            draft.takeTheirs(await load());
            void navigate(`/batches/${copy.id}`);
          }}
          onTheirs={(theirs) => {
            draft.takeTheirs(theirs);
            client.setQueryData(['batch', record.id], theirs);
          }}
          onMine={draft.keepMine}
          isFinal={(theirs) => theirs.events > 0}
        />
        <div className={columns.columns}>
          <div className={columns.column}>
            <SizePanel />
            <AdditionsPanel />
          </div>
          <div className={columns.column}>
            <Cutting />
            <ChoicesPanel />
          </div>
          <div className={columns.column}>
            <ReadyPanel />
            <WeightsPanel />
          </div>
        </div>
      </div>
    </BatchContext>
  );
}

/** The bench has moved on since this plan took its formula. */
function FormulaMoved() {
  const { draft } = useBatch();
  const { plan } = draft;
  const { data: formula } = useQuery({
    queryKey: ['formula-now', plan.formula_id],
    queryFn: () => answered(api.GET('/api/formulas/{formula_id}', at(plan.formula_id))),
    enabled: plan.formula_id !== '',
    staleTime: 0,
    retry: false,
  });
  if (formula === undefined) return null;
  // How it is made is the batch's own.
  const now = { ...formula.formula, process: plan.formula.process };
  if (plan.version > 0 || JSON.stringify(plan.formula) === JSON.stringify(now)) return null;
  return (
    <button
      type="button"
      className={classes.moved}
      onClick={() => draft.edit((before) => ({ ...before, formula: { ...formula.formula, process: before.formula.process } }))}
    >
      The formula has changed since: take it over
    </button>
  );
}
