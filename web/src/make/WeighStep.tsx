import { useHotkeys } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import type { DeviceReadings, Problem, Step, Way } from '../api/types';
import { NumberField } from '../shared/NumberField';
import { formatNumber } from '../shared/quantity';
import { useTellFailure } from '../shared/tellFailure';
import { Told } from '../shared/Told';
import { useWeights } from '../shared/units';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';
import { asRead, standingOf, weighingOf, type Standing, type Weighing } from './weighing';

type ScaleReading = DeviceReadings['scale'];

/** One weighing: the live weight against its target, and the ways out when it is off. */
export function WeighStep({ step, isCurrent }: { step: Step; isCurrent: boolean }) {
  const { run, send, devices } = useMaking();
  const weights = useWeights();
  const tellFailure = useTellFailure();
  const [isTyping, setIsTyping] = useState(false);
  const [typed, setTyped] = useState<{ value: number | null; unread?: string }>({ value: null });
  const [problem, setProblem] = useState<Problem | null>(null);
  const [isTakingOut, setIsTakingOut] = useState(false);
  const recorded = weighingOf(step, run);
  const decimals = step.weigh?.decimals ?? 1;
  const scale = devices?.scale;
  const shown = isTyping ? typed.value : (scale?.weight_g ?? null);
  const weighing = recorded && asRead(recorded, isTyping ? null : shown);
  const standing = weighing && shown !== null ? standingOf(shown, weighing) : 'under';
  const canTake = isTyping
    ? typed.value !== null && typed.unread === undefined
    : scale?.state === 'steady' && scale.tared && (scale.weight_g ?? 0) > 0;

  const take = async () => {
    if (!weighing || shown === null || !canTake || !isCurrent) return;
    setProblem(null);
    const captured = await send({
      kind: 'captured',
      item: weighing.item,
      weight_g: shown,
      source: isTyping ? 'typed' : 'scale',
      tared: isTyping ? true : (scale?.tared ?? false),
      adds: weighing.isTopUp,
    });
    if (!captured.ok) {
      setProblem(captured.problem);
      return;
    }
    setIsTyping(false);
    setIsTakingOut(false);
    setTyped({ value: null });
    if (captured.run.state.settled.includes(weighing.item)) await done();
  };
  const done = async () => {
    const sent = await send({ kind: 'step_done', step: step.id, confirmed: [] });
    if (!sent.ok) setProblem(sent.problem);
  };
  const tare = () => {
    answered(api.POST('/api/devices/scale/tare')).catch(tellFailure);
  };
  // Lye is never taken by a stray key.
  useHotkeys(step.caustic ? [['T', tare]] : [['T', tare], ['Enter', () => void take()]]);
  if (!weighing) return null;
  const isOff = weighing.captured > 0 && !weighing.isSettled && !isTakingOut;

  return (
    <>
      <p className={classes.reading} data-standing={standing} data-scale={scale?.state} data-off={isOff && weighing.captured > weighing.target} data-testid="live-weight" aria-live="off">
        {shown === null ? '– – –' : weights.format(shown, decimals)}
        <span>{weights.unit}</span>
      </p>
      <p className={classes.goal}>
        of <b>{weights.format(weighing.toPour, decimals)} {weights.unit}</b>
        {weighing.isTopUp && ' more'} · <Words {...{ shown, standing, weighing, scale, isTyping, decimals }} />
      </p>
      <Gauge shown={shown ?? 0} toPour={weighing.toPour} tolerance={weighing.tolerance} standing={standing} />
      <p className={classes.tolerance}>± {weights.format(weighing.tolerance, decimals)} {weights.unit} is right</p>
      {isCurrent && isOff && <WaysOut item={weighing.item} onSettled={done} onTakeOut={() => setIsTakingOut(true)} />}
      {isTakingOut && <p className={classes.text}>Take it out until the weight is right, then take it anew.</p>}
      {isCurrent && isTyping && (
        <div className={classes.typing}>
          <NumberField
            showLabel
            label={`Weight of ${step.weigh?.name ?? ''}`}
            value={typed.value}
            unit={weights.unit}
            step={1}
            format={(grams) => weights.format(grams, decimals)}
            parse={weights.parse}
            unread={typed.unread}
            onUnread={(text) => setTyped((now) => ({ ...now, unread: text ?? undefined }))}
            onChange={(value) => setTyped((now) => ({ ...now, value }))}
            onKeyDown={(event) => {
              if (event.key === 'Enter') void take();
            }}
            inputRef={(input) => {
              if (input && document.activeElement === document.body) input.focus();
            }}
            testId="typed-weight"
          />
        </div>
      )}
      {problem && (
        <p className={classes.problem} role="alert">
          <Told>{`${problem.message} ${problem.remedy}`}</Told>
        </p>
      )}
      {isCurrent && (
        <div className={classes.actions}>
          <button type="button" className={classes.primary} disabled={!canTake} onClick={() => void take()} data-testid="take-weight">
            Take this weight
          </button>
          <button type="button" className={classes.big} onClick={tare} disabled={scale?.state === 'unplugged'} data-testid="tare">
            Tare
          </button>
          <button type="button" className={classes.big} aria-pressed={isTyping} onClick={() => setIsTyping((now) => !now)} data-testid="type-weight">
            {isTyping ? 'Use the scale' : 'Type it'}
          </button>
        </div>
      )}
      {!isCurrent && weighing.captured > 0 && (
        <p className={classes.text}>
          {weights.format(weighing.captured, decimals)} {weights.unit} is in the pot.
        </p>
      )}
    </>
  );
}

interface WordsProps {
  shown: number | null;
  standing: Standing;
  weighing: Weighing;
  scale: ScaleReading | undefined;
  isTyping: boolean;
  decimals: number;
}

/** What the reading means, in a few words that can be read from afar. */
function Words({ shown, standing, weighing, scale, isTyping, decimals }: WordsProps) {
  const weights = useWeights();
  if (!isTyping) {
    if (scale === undefined) return <b data-tone="watch">the scale does not answer: type it</b>;
    if (scale.state === 'unplugged') return <b data-tone="watch">the scale is unplugged: plug it in, or type it</b>;
    if (scale.state === 'overload') return <b data-tone="watch">too heavy for the scale: take it off</b>;
    if (!scale.tared) return <b data-tone="watch">tare with the container on it</b>;
    if ((scale.weight_g ?? 0) < 0) return <b data-tone="watch">below zero: tare</b>;
  }
  if (shown === null) return <b>pour</b>;
  const off = `${weights.format(Math.abs(shown - weighing.toPour), decimals)} ${weights.unit}`;
  if (standing === 'right') return <b data-tone="right">right{!isTyping && scale?.state !== 'steady' ? ', settling' : ''}</b>;
  if (standing === 'over') return <b data-tone="watch">{off} over</b>;
  return standing === 'near' ? <b data-tone="near">{off} to go, slowly</b> : <b>{off} to go</b>;
}

function Gauge({ shown, toPour, tolerance, standing }: { shown: number; toPour: number; tolerance: number; standing: string }) {
  const full = toPour * 1.15;
  const at = (grams: number) => `${(100 * Math.min(Math.max(grams, 0), full)) / full}%`;
  return (
    <div className={classes.gauge} data-standing={standing} aria-hidden>
      <div className={classes.fill} style={{ width: at(shown) }} />
      <div className={classes.zone} style={{ left: at(toPour - tolerance), width: `max(6px, ${(200 * tolerance) / full}%)` }} />
    </div>
  );
}

interface WaysOutProps {
  item: string;
  onSettled: () => Promise<void>;
  onTakeOut: () => void;
}

function WaysOut({ item, onSettled, onTakeOut }: WaysOutProps) {
  const { run, send } = useMaking();
  const { data: off } = useQuery({
    queryKey: ['deviation', run.record.id, item, run.state.seq],
    queryFn: () =>
      answered(
        api.GET('/api/batches/{batch_id}/deviation/{item}', { params: { path: { batch_id: run.record.id, item } } }),
      ),
  });
  if (off === undefined) return null;
  const go = async (way: Way) => {
    const sent = await send({ kind: 'way_taken', item, way: way.way, targets_g: {}, words: '' });
    if (sent.ok && way.way === 'remove') onTakeOut();
    else if (sent.ok && sent.run.state.settled.includes(item) && sent.run.state.current === `weigh-${item}`) await onSettled();
  };
  return (
    <section className={classes.ways} aria-label="What to do about it" data-testid="ways-out">
      <p>
        <strong><Told>{off.words}</Told></strong> What now?
      </p>
      {off.ways.map((way) => (
        <button key={way.way} type="button" disabled={!way.possible} onClick={() => void go(way)} data-testid={`way-${way.way}`}>
          <b>{way.title}</b>
          <span><Told>{way.possible ? way.text : way.why_not}</Told></span>
          {way.possible && way.after.figures && (
            <small>then true superfat {formatNumber(way.after.figures.lye.superfat_interval.middle_percent, 1)} %</small>
          )}
        </button>
      ))}
    </section>
  );
}
