import { useDebouncedValue, useDocumentTitle, useHotkeys } from '@mantine/hooks';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Link, useParams } from 'react-router';

import { answered, api } from '../api/client';
import type { LabelDesign, LabelView } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { BatchStages } from '../batch/BatchStages';
import buttons from '../design/buttons.module.css';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { ConflictDialog } from '../sync/ConflictDialog';
import { SavedMark } from '../sync/SavedMark';
import { UndoRedo } from '../sync/UndoRedo';
import { StayGuard } from '../sync/StayGuard';
import { Drawing } from './Drawing';
import { Facts } from './Facts';
import classes from './Label.module.css';
import { batchAt, LabelContext, useLabelDraft } from './LabelContext';
import { Print } from './Print';
import { Says } from './Says';
import { SheetPanel } from './SheetPanel';
import { ToKnow } from './ToKnow';
import { What } from './What';
import { Words } from './Words';

const QUIET_MS = 120;

/** The label of a batch: what is in its bars by weight, what may be printed, and the drawing of it to scale. */
export function Label() {
  const { batchId: ofBatch, preparationId } = useParams();
  const batchId = ofBatch ?? preparationId ?? '';
  const { data, error, isFetchedAfterMount } = useQuery({
    queryKey: ['label', batchId],
    queryFn: () => answered(api.GET('/api/labels/{batch_id}', batchAt(batchId))),
    refetchOnMount: 'always',
    refetchOnReconnect: false,
  });
  if (error !== null) return <Missing title="This label cannot be opened" message={error.message} />;
  if (!isFetchedAfterMount || data === undefined) return <Pending />;
  return <OpenLabel key={batchId} loaded={data} />;
}

function OpenLabel({ loaded }: { loaded: LabelView }) {
  const client = useQueryClient();
  const draft = useLabelDraft(loaded);
  const { design, edit, record } = draft;
  const [settled] = useDebouncedValue(design, QUIET_MS);
  const { data: view = loaded } = useQuery({
    queryKey: ['label-preview', loaded.batch_id, settled],
    queryFn: ({ signal }) => answered(api.POST('/api/labels/{batch_id}/preview', { ...batchAt(loaded.batch_id), body: { revision: 0, design: settled }, signal })),
    placeholderData: keepPreviousData,
  });
  const state = useMemo(
    () => ({ draft, view, change: (part: Partial<LabelDesign>, mergeKey?: string) => edit((now) => ({ ...now, ...part }), mergeKey ?? null) }),
    [draft, view, edit],
  );
  useDocumentTitle(`Label of ${view.code} · Sapolin`);
  useHotkeys([['mod+S', draft.saveNow]], []);
  useHotkeys([
    ['mod+Z', draft.undo],
    ['mod+shift+Z', draft.redo],
    ['mod+Y', draft.redo],
  ]);
  const isSettled = settled === design && draft.save.kind === 'saved';
  const load = () => answered(api.GET('/api/labels/{batch_id}', batchAt(loaded.batch_id)));
  return (
    <LabelContext value={state}>
      <div className={columns.page}>
        <div className={heads.header}>
          <h1>
            {view.name} <span className={classes.code}>{view.code}</span>
          </h1>
          {view.net_ml === null ? (
            <BatchStages batchId={view.batch_id} isBegun />
          ) : (
            <Link to={`/preparations/${view.batch_id}/make`} className={buttons.link}>
              To its record
            </Link>
          )}
          <span className={classes.spring} />
          <SavedMark save={draft.save} savedAt={record.saved_at} unreadCount={Object.keys(draft.unread).length} />
          <UndoRedo draft={draft} />
          <Print isSettled={isSettled} keep={record.revision === 0 ? draft.saved : null} />
        </div>
        <StayGuard when={draft.isLosable} what={`What was changed of the label of ${view.code}`} />
        <ConflictDialog
          opened={draft.save.kind === 'conflict'}
          name={`the label of ${view.code}`}
          load={load}
          onTheirs={(theirs) => {
            draft.takeTheirs(theirs);
            client.setQueryData(['label', loaded.batch_id], theirs);
          }}
          onMine={draft.keepMine}
        />
        <div className={classes.columns}>
          <What />
          <div className={columns.column}>
            <Drawing />
            <Says />
            <SheetPanel />
          </div>
          <div className={columns.column}>
            <ToKnow />
            <Words />
            <Facts />
          </div>
        </div>
        <p className={classes.defers}>
          Sapolin calculates and informs. What a label must say, and what it may claim, is settled by the rules of the place where the bar is sold, and by those who know them.
        </p>
      </div>
    </LabelContext>
  );
}
