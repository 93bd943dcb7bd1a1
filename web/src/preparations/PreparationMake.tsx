import { VisuallyHidden } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';

import { answered, api } from '../api/client';
import type { PreparationRun, Step } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { Advice, Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import { CheckStep } from '../make/CheckStep';
import { IfNeeded, PackStep, StagesStep, TestStep } from '../make/CookSteps';
import { DevicePanel } from '../make/DevicePanel';
import make from '../make/Make.module.css';
import { useWork, WorkContext, type Work } from '../make/MakeContext';
import { Clock, Readings, TabletMenu } from '../make/MakeDay';
import { RecordDialog } from '../make/RecordDialog';
import { useAwake } from '../make/tablet';
import { StepTimers, TimerPanel } from '../make/TimerPanel';
import { phasesOf } from '../make/weighing';
import { WeighStep } from '../make/WeighStep';
import { SaltTest } from './SaltTest';
import { usePreparationRun } from './usePreparationRun';

/** A preparation being made: one step at a time, as on make day. */
export function PreparationMake() {
  const { preparationId = '' } = useParams();
  const { run, error, send, tare, refetch, isSaved, isOffline } = usePreparationRun(preparationId);
  const [look, setLook] = useState<{ from: string | null; at: string } | null>(null);
  const [isRecord, setIsRecord] = useState(false);
  const work = useMemo<Work | null>(
    () =>
      run
        ? {
            run,
            isBatch: false,
            toPack: { pieces: run.prepared.diluted?.bottles ?? null, unit: 'bottles' },
            send,
            tare,
            record: () => answered(api.GET('/api/preparations/{preparation_id}/record', { params: { path: { preparation_id: preparationId } } })),
          }
        : null,
    [run, send, tare, preparationId],
  );
  useAwake(run?.state.status === 'making');
  useDocumentTitle(run ? `${run.record.plan.name}, ${run.record.code} · Sapolin` : 'Sapolin');
  if (error !== null && run === undefined) return <Missing title="This cannot be made yet" message={error.message} />;
  if (!run || !work) return <Pending />;
  const current = run.state.current;
  const shown = look !== null && look.from === current ? look.at : current;
  const { steps } = run.prepared;
  const step = steps.find((one) => one.id === shown) ?? null;
  const { status } = run.state;
  const show = (id: string | null) => setLook(id === null ? null : { from: current, at: id });
  return (
    <WorkContext value={work}>
      <Readings onSilence={refetch}>
        <div className={make.page} data-caustic={status === 'making' && step?.caustic === true}>
          <header className={make.bar}>
            <Link to="/preparations" className={make.back} aria-label="To paste and other work">
              ←
            </Link>
            <h1>{run.record.plan.name}</h1>
            <span className={make.which}>{run.record.code}</span>
            <span className={make.spring} />
            <span className={make.saved} data-trouble={isOffline} role="status" data-testid="run-saved">
              {isOffline ? 'No answer: kept here, trying again' : isSaved ? 'All on disk' : 'Saving …'}
            </span>
            <Clock />
            <TabletMenu />
          </header>
          <nav className={make.rail} aria-label="Progress">
            {/* It scrolls on a narrow screen, so the keyboard must reach it. */}
            {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex */}
            <ol tabIndex={0} aria-label="Phases">
              {phasesOf(run).map((phase) => (
                <li key={phase.name} data-state={phase.state} data-caustic={phase.caustic} aria-current={phase.state === 'now' ? 'step' : undefined}>
                  <span aria-hidden>{phase.state === 'done' ? '✓' : ''}</span>
                  {phase.name}
                  <VisuallyHidden>{phase.state === 'done' ? ', done' : ''}</VisuallyHidden>
                </li>
              ))}
            </ol>
            {status !== 'planned' && (
              <button type="button" className={make.railButton} onClick={() => setIsRecord(true)}>
                {status === 'making' ? 'Record, correct, give up' : 'Record, correct'}
              </button>
            )}
          </nav>
          <main className={make.main} id="screen">
            {status === 'planned' && <Begin run={run} />}
            {status === 'making' && step && <OneStep key={step.id} step={step} run={run} isCurrent={step.id === current} onShow={show} />}
            {status === 'making' && current === null && <End run={run} />}
            {(status === 'made' || status === 'aborted') && <Done run={run} />}
          </main>
          <aside className={make.side}>
            {status === 'making' && <DevicePanel />}
            {status === 'making' && <TimerPanel />}
          </aside>
          <RecordDialog opened={isRecord} onClose={() => setIsRecord(false)} />
        </div>
      </Readings>
    </WorkContext>
  );
}

function Begin({ run }: { run: PreparationRun }) {
  const { send } = useWork();
  const found = run.prepared.diagnostics;
  return (
    <article className={make.step}>
      <h2 className={make.heading}>Ready to make it?</h2>
      <p className={make.text}>{run.prepared.steps.length} steps. From here on the plan stays as it is, and everything that happens is written down.</p>
      <ul className={make.checks}>
        {found.map((one) => (
          <li key={one.code + one.path} data-severity={one.severity}>
            <Advice of={one} />
          </li>
        ))}
      </ul>
      <div className={make.actions}>
        <button type="button" className={make.primary} disabled={found.some((one) => one.stops !== '')} onClick={() => void send({ kind: 'started', targets_g: {} })} data-testid="begin">
          Begin
        </button>
        <Link className={make.big} to={`/preparations/${run.record.id}`}>
          Back to the plan
        </Link>
      </div>
    </article>
  );
}

interface OneStepProps {
  step: Step;
  run: PreparationRun;
  isCurrent: boolean;
  onShow: (id: string | null) => void;
}

function OneStep({ step, run, isCurrent, onShow }: OneStepProps) {
  const { steps } = run.prepared;
  const at = steps.indexOf(step);
  const before = steps[at - 1];
  return (
    <article className={make.step} data-caustic={step.caustic} data-testid="step" data-step={step.id}>
      {step.caustic && <p className={make.caustic}>CAUSTIC · gloves and goggles stay on, nobody else near</p>}
      <p className={make.counter}>
        step {at + 1} of {steps.length}
        {!isCurrent && ' · looking back, nothing changes'}
      </p>
      <h2 className={make.heading} aria-live="polite">
        {step.title}
      </h2>
      {step.kind !== 'weigh' && (
        <p className={make.text}>
          <Sentence>{step.text}</Sentence>
        </p>
      )}
      {step.kind === 'weigh' && <WeighStep step={step} isCurrent={isCurrent} />}
      {step.kind === 'stages' && <StagesStep step={step} isCurrent={isCurrent} />}
      {step.kind === 'test' && <TestStep step={step} isCurrent={isCurrent} />}
      {step.kind === 'pack' && <PackStep isCurrent={isCurrent} />}
      {step.id === 'dilute-thickness' && <SaltTest run={run} />}
      <IfNeeded step={step} />
      {isCurrent && <StepTimers minutes={step.timer_minutes ?? []} />}
      {step.kind === 'weigh' && (
        <p className={make.text}>
          <Sentence>{step.text}</Sentence>
        </p>
      )}
      {step.kind !== 'weigh' && <CheckStep step={step} isCurrent={isCurrent} />}
      <div className={make.steps}>
        <button type="button" disabled={before === undefined} onClick={() => before && onShow(before.id)}>
          ← Back
        </button>
        {!isCurrent && (
          <button type="button" onClick={() => onShow(null)}>
            Where the work is →
          </button>
        )}
      </div>
    </article>
  );
}

function End({ run }: { run: PreparationRun }) {
  const { send } = useWork();
  return (
    <article className={make.step}>
      <h2 className={make.heading}>All steps are done</h2>
      <p className={make.text}>
        <Sentence>{run.prepared.closing}</Sentence>
      </p>
      <div className={make.actions}>
        <button type="button" className={make.primary} onClick={() => void send({ kind: 'finished' })} data-testid="finish">
          Finish
        </button>
      </div>
    </article>
  );
}

function Done({ run }: { run: PreparationRun }) {
  const weights = useWeights();
  const { packed, status, tests = [] } = run.state;
  const ph = tests.findLast((one) => one.ph !== null)?.ph;
  if (status === 'aborted') {
    return (
      <article className={make.step}>
        <h2 className={make.heading}>Given up</h2>
        <p className={make.text}>{run.state.abort_reason}</p>
      </article>
    );
  }
  return (
    <article className={make.step}>
      <h2 className={make.heading}>Made</h2>
      <p className={make.text} data-testid="waiting">
        <Sentence>{run.prepared.closing}</Sentence>
      </p>
      {packed && (
        <p className={make.goal}>
          <b>{packed.jars}</b> bottles, <b>{weights.tell(packed.weight_g)}</b>
          {ph !== undefined && ph !== null && <> · pH {ph}</>}
        </p>
      )}
      <div className={make.actions}>
        {run.record.plan.kind === 'dilution' && (
          <Link className={make.primary} to={`/preparations/${run.record.id}/label`} data-testid="to-label">
            Its label
          </Link>
        )}
        {(run.record.plan.kind === 'master_lye' || run.record.plan.kind === 'master_blend') && (
          <Link className={make.primary} to="/stock">
            Enter it in Stock
          </Link>
        )}
        <Link className={make.big} to="/preparations">
          To paste and other work
        </Link>
      </div>
    </article>
  );
}
