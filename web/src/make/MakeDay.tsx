import { Menu, VisuallyHidden } from '@mantine/core';
import { useDocumentTitle, useHotkeys } from '@mantine/hooks';
import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { Link, useParams } from 'react-router';

import type { Run, Step } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { MenuButton } from '../design/MenuButton';
import { clockTime } from '../design/dates';
import { OnTheWay, Sliced } from '../design/Later';
import { Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import { Beginning } from './Beginning';
import { CheckStep } from './CheckStep';
import { IfNeeded, PackStep, StagesStep, TestStep } from './CookSteps';
import { DevicePanel } from './DevicePanel';
import { FirstAid } from './FirstAid';
import classes from './Make.module.css';
import { MakeContext, ReadingsContext, WorkContext } from './MakeContext';
import { workOf } from './workOf';
import { NotesPanel } from './NotesPanel';
import { CompositionPanel } from './BowlPanel';
import { PourStep } from './PourStep';
import { RecordDialog } from './RecordDialog';
import { Summary } from './Summary';
import { IceBath, TemperatureStep } from './TemperatureStep';
import { CAN_STAY_AWAKE, useAwake, useFullScreen, useTabletSettings } from './tablet';
import { whenOf } from './time';
import { StepTimers, TimerPanel } from './TimerPanel';
import { TraceStep } from './TraceStep';
import { useDevices } from './useDevices';
import { useRun } from './useRun';
import { phasesOf } from './weighing';
import { WeighStep } from './WeighStep';

/** Make day: one step at a time, readable from two metres, every capture on disk before the screen says so. */
export function MakeDay() {
  const { batchId = '' } = useParams();
  const { run, error, send, tare, refetch, isSaved, isOffline } = useRun(batchId);
  const weights = useWeights();
  // A look at another step ends when the work moves on, here or on another device.
  const [look, setLook] = useState<{ from: string | null; at: string } | null>(null);
  const [dialog, setDialog] = useState<'aid' | 'record' | null>(null);
  const making = useMemo(() => (run ? { run, send, tare } : null), [run, send, tare]);
  const work = useMemo(() => making && workOf(making), [making]);
  const current = run?.state.current ?? null;
  const shown = look !== null && look.from === current ? look.at : null;
  const show = (id: string | null) => setLook(id === null ? null : { from: current, at: id });
  useAwake(run?.state.status === 'making');
  const rail = useRef<HTMLElement>(null);
  useEffect(() => {
    // The phase that the work is in stays in sight where phases scroll sideways.
    rail.current?.querySelector('[aria-current=step]')?.scrollIntoView?.({ block: 'nearest', inline: 'center' });
  }, [current]);
  useDocumentTitle(run ? `${run.record.code}, ${run.record.plan.formula.name} · Sapolin` : 'Make day · Sapolin');
  if (error !== null && run === undefined) return <Missing title="This batch cannot be made yet" message={error.message} />;
  if (!run || !making || !work) return <Pending />;
  const { steps } = run.prepared;
  const step = steps.find((one) => one.id === (shown ?? current)) ?? null;
  const status = run.state.status;
  return (
    <MakeContext value={making}>
      <WorkContext value={work}>
      <Sliced before={<Pending />}>
      <Readings onSilence={refetch}>
      <div className={classes.page} data-caustic={status === 'making' && step?.caustic === true}>
        <header className={classes.bar}>
          <Link to="/batches" className={classes.back} aria-label="To the batches">
            ←
          </Link>
          <h1>{run.record.plan.formula.name}</h1>
          <span className={classes.which}>
            batch {run.record.code} · {weights.tell(run.prepared.planned.size.batter_g)}
            {run.state.started_at && ` · begun ${whenOf(run.state.started_at)}`}
          </span>
          <span className={classes.spring} />
          <span className={classes.saved} data-trouble={isOffline} role="status" data-testid="run-saved">
            {isOffline ? 'No answer: kept here, trying again' : isSaved ? 'All on disk' : 'Saving …'}
          </span>
          <Clock />
          <TabletMenu />
          <button type="button" className={classes.aid} onClick={() => setDialog('aid')} data-testid="first-aid">
            <span>Lye on skin or eyes? </span>First aid
          </button>
        </header>
        <nav ref={rail} className={classes.rail} aria-label="Progress">
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
            <button type="button" className={classes.railButton} onClick={() => setDialog('record')}>
              {status === 'making' ? 'Record, correct, give up' : 'Record, correct'}
            </button>
          )}
        </nav>
        <main className={classes.main} id="screen">
          {status === 'planned' && <Beginning />}
          {status === 'making' && step && <OneStep key={step.id} step={step} run={run} isCurrent={step.id === current} onShow={show} />}
          {status === 'making' && current === null && shown === null && <Closing words={run.closing} onFinish={() => void send({ kind: 'finished' })} />}
          {(status === 'made' || status === 'aborted') && <Summary />}
        </main>
        <aside className={classes.side}>
          {status === 'making' && <DevicePanel />}
          {status !== 'planned' && <OnTheWay height={326}><CompositionPanel /></OnTheWay>}
          {status === 'making' && <TimerPanel />}
          {status !== 'planned' && <NotesPanel />}
        </aside>
        <FirstAid words={run.first_aid} opened={dialog === 'aid'} onClose={() => setDialog(null)} />
        <RecordDialog opened={dialog === 'record'} onClose={() => setDialog(null)} />
      </div>
      </Readings>
      </Sliced>
      </WorkContext>
    </MakeContext>
  );
}

/** The readings of scale and thermometer, for those parts that show them. */
export function Readings({ onSilence, children }: { onSilence: () => Promise<unknown>; children: ReactNode }) {
  const devices = useDevices();
  // When the readings stop, the server may be gone: ask at once rather than at the next turn.
  const isSilent = devices === null;
  useEffect(() => {
    if (isSilent) void onSilence();
  }, [isSilent, onSilence]);
  return <ReadingsContext value={devices}>{children}</ReadingsContext>;
}

/** Full screen, sounds, and whether right weights are taken by themselves. */
export function TabletMenu() {
  const { fullscreen, toggle } = useFullScreen();
  const { sounds, setSounds, takesItself, setTakesItself } = useTabletSettings();
  return (
    <MenuButton
      position="bottom-end"
      closeOnItemClick={false}
      button={
        <button type="button" className={classes.tablet} aria-label="Screen and sound" data-testid="tablet-menu">
          ⚙
        </button>
      }
    >
      <Menu.CheckboxItem checked={fullscreen} onChange={() => void toggle()}>
        Full screen
      </Menu.CheckboxItem>
      <Menu.CheckboxItem checked={sounds} onChange={setSounds}>
        Chime and vibrate: near, right, over
      </Menu.CheckboxItem>
      <Menu.CheckboxItem checked={takesItself} onChange={setTakesItself}>
        Take a right and steady weight by itself, never lye
      </Menu.CheckboxItem>
      {!CAN_STAY_AWAKE && <Menu.Label maw={280}>This browser cannot keep the screen on. Set the device’s own screen timeout to its longest.</Menu.Label>}
    </MenuButton>
  );
}

interface OneStepProps {
  step: Step;
  run: Run;
  isCurrent: boolean;
  onShow: (id: string | null) => void;
}

function OneStep({ step, run, isCurrent, onShow }: OneStepProps) {
  const { steps } = run.prepared;
  const at = steps.indexOf(step);
  const before = steps[at - 1];
  const after = isCurrent ? undefined : steps[at + 1];
  const isLyeStep = step.caustic && (step.weigh?.role === 'lye' || step.checks.length > 0);
  useHotkeys([
    ['ArrowLeft', () => before && onShow(before.id)],
    ['ArrowRight', () => after && onShow(after.id)],
  ]);
  return (
    // Nothing about lye is ever done by Enter: wet hands brush a key too easily.
    <article
      className={classes.step}
      data-caustic={step.caustic}
      data-testid="step"
      data-step={step.id}
      onKeyDownCapture={(event) => {
        if (isLyeStep && event.key === 'Enter' && event.target instanceof HTMLButtonElement) event.preventDefault();
      }}
    >
      {step.caustic && <p className={classes.caustic}>CAUSTIC · gloves and goggles stay on, nobody else near</p>}
      <p className={classes.counter}>
        step {at + 1} of {steps.length}
        {!isCurrent && ' · looking back, nothing changes'}
      </p>
      <h2 className={classes.heading} aria-live="polite">
        {step.title}
      </h2>
      {step.kind !== 'weigh' && <p className={classes.text}><Sentence>{step.text}</Sentence></p>}
      {step.kind === 'weigh' && <WeighStep step={step} isCurrent={isCurrent} />}
      {step.kind === 'temperature' && <TemperatureStep isCurrent={isCurrent} />}
      {step.kind === 'trace' && <TraceStep isCurrent={isCurrent} />}
      {step.kind === 'pour' && <PourStep isCurrent={isCurrent} />}
      {step.kind === 'stages' && <StagesStep step={step} isCurrent={isCurrent} />}
      {step.kind === 'test' && <TestStep step={step} isCurrent={isCurrent} />}
      {step.kind === 'pack' && <PackStep isCurrent={isCurrent} />}
      <IfNeeded step={step} />
      {isCurrent && <StepTimers minutes={step.timer_minutes ?? []} />}
      {step.kind === 'weigh' && <p className={classes.text}><Sentence>{step.text}</Sentence></p>}
      {step.kind !== 'weigh' && (
        <CheckStep step={step} isCurrent={isCurrent} beside={step.kind === 'temperature' && <IceBath />} />
      )}
      <div className={classes.steps}>
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

function Closing({ words, onFinish }: { words: Run['closing']; onFinish: () => void }) {
  return (
    <article className={classes.step}>
      <h2 className={classes.heading}>All steps are done</h2>
      <p className={classes.text}>
        <Sentence>{words}</Sentence>
      </p>
      <div className={classes.actions}>
        <button type="button" className={classes.primary} onClick={onFinish} data-testid="finish">
          Finish make day
        </button>
      </div>
    </article>
  );
}

export function Clock() {
  const [now, setNow] = useState(() => new Date());
  useEffect(() => {
    const timer = setInterval(() => setNow(new Date()), 1000);
    return () => clearInterval(timer);
  }, []);
  return <time className={classes.clock}>{clockTime(now)}</time>;
}
