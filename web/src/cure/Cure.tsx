import { Button, Menu } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';

import type { CureView } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { BatchStages } from '../batch/BatchStages';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { Sliced } from '../design/Later';
import classes from './Cure.module.css';
import { MenuButton } from '../design/MenuButton';
import { Cost } from './Cost';
import { CutForm } from './CutForm';
import { Earlier } from './Earlier';
import { Drying } from './Drying';
import { Fit } from './Fit';
import { Happened } from './Happened';
import { InMould } from './InMould';
import { Leave } from './Leave';
import { Life } from './Life';
import { Look } from './Look';
import { Rack } from './Rack';
import { Seen } from './Seen';
import { CureContext, useCure, type CureEvent } from './useCure';
import { Weigh } from './Weigh';

/** A batch from its mould to its last bar. */
export function Cure() {
  const { batchId = '' } = useParams();
  const { view, error, record, isSaved, isOffline } = useCure(batchId);
  const [earlier, setEarlier] = useState('');
  const curing = useMemo(() => {
    if (!view) return null;
    const at = earlier === '' ? null : new Date(earlier).toISOString();
    return { view, record: (event: CureEvent, when: string | null = null) => record(event, when ?? at) };
  }, [view, record, earlier]);
  useDocumentTitle(view ? `Cure of ${view.code} · Sapolin` : 'Cure · Sapolin');
  if (error !== null && view === undefined) return <Missing title="This batch cannot be followed" message={error.message} />;
  if (!view || !curing) return <Pending />;
  const label = (size: string) => `/api/batches/${batchId}/tray-label.pdf?size=${size}&tray=${encodeURIComponent(Object.keys(view.state.trays)[0] ?? '')}`;
  return (
    <CureContext value={curing}>
      <Sliced before={<Pending />}>
        <div className={columns.page}>
          <div className={heads.header}>
            <h1>
              {view.name} <span className={classes.code}>{view.code}</span>
            </h1>
            <BatchStages batchId={batchId} isBegun />
            <span className={classes.saved} role="status" data-testid="cure-saved">
              {isSaved ? '' : isOffline ? 'No answer from the server; kept on this device, sent again' : 'Saving …'}
            </span>
            {view.poured_at !== null && <Earlier value={earlier} onChange={setEarlier} />}
            {view.poured_at !== null && (
              <MenuButton position="bottom-end" button={<Button data-testid="tray-label">Tray label</Button>}>
                <Menu.Item component="a" href={label('label')} target="_blank">
                  Small label
                </Menu.Item>
                <Menu.Item component="a" href={label('a4')} target="_blank">
                  A4 sheet
                </Menu.Item>
              </MenuButton>
            )}
          </div>
          <Life />
          {view.poured_at === null ? (
            <p className={classes.lead}>
              It is not poured yet. <Link to={`/batches/${batchId}`}>Go on with its plan</Link>.
            </p>
          ) : view.is_bar ? (
            <Stage view={view} />
          ) : (
            <>
              <p className={classes.lead}>This is a paste: it has no mould, no cutting and no rack. Its notes and its test before use are kept here.</p>
              <div className={heads.sides}>
                <Happened />
                <Fit />
              </div>
            </>
          )}
        </div>
      </Sliced>
    </CureContext>
  );
}

/** What is to be done now comes first; everything else stays at hand. */
function Stage({ view }: { view: CureView }) {
  const { unmoulded_at: out, cut_at: cut } = view.state;
  if (cut === null) {
    return (
      <div className={heads.sides}>
        <div className={columns.column}>
          {out === null ? <InMould /> : <CutForm />}
          <Seen />
        </div>
        <Happened />
      </div>
    );
  }
  const isDry = view.ready_at !== null && new Date(view.ready_at) <= new Date(view.now);
  const isFit = view.fit === 'fit';
  return (
    <div className={heads.sides}>
      <div className={columns.column}>
        <Drying />
        <Rack />
        <Seen />
        <Happened />
      </div>
      <div className={`${columns.column} ${classes.doing}`}>
        {(isDry || view.fit !== 'untested') && <Fit />}
        {view.here > 0 && !isFit && <Weigh />}
        {!isDry && view.fit === 'untested' && <Fit />}
        <Leave />
        {isFit && <Look />}
        <Cost />
      </div>
    </div>
  );
}
