import { useState } from 'react';

import type { Diagnostic, PreparationRun } from '../api/types';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { saidOf, useWeights } from '../design/units';
import make from '../make/Make.module.css';
import { useWork } from '../make/MakeContext';
import classes from './Preparations.module.css';

/** What was typed over what a step begins with; undefined where it was not. */
type Typed = { value?: number | null; unread?: string };

/** Brine into a sample, step by step, each timed: where it is thickest, and what that means for all of it. */
export function SaltTest({ run }: { run: PreparationRun }) {
  const { send } = useWork();
  const weights = useWeights();
  const [sample, setSample] = useState<Typed>({});
  const [brine, setBrine] = useState<Typed>({});
  const [seconds, setSeconds] = useState<Typed>({});
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  if (!run.prepared.diluted?.thickness.salt_thickens) return null;
  const test = run.salt_test;
  const { sample_g = test.sample_g, brine_g = test.next_brine_g } = { sample_g: sample.value, brine_g: brine.value };
  const isRead = [sample, brine, seconds].every((one) => one.unread === undefined);
  const note = async () => {
    if (sample_g === null || brine_g === null || seconds.value == null) return;
    const sent = await send({ kind: 'salt_step', sample_g, brine_g, seconds: seconds.value });
    setProblem(sent.ok ? null : sent.problem);
    if (!sent.ok) return;
    // What was typed while it was on its way stays.
    setSample((now) => (now === sample ? {} : now));
    setBrine((now) => (now === brine ? {} : now));
    setSeconds((now) => (now === seconds ? {} : now));
  };
  const grams = { unit: weights.unit, format: (value: number) => weights.format(value, 1), parse: weights.parse };
  return (
    <details className={make.needed} open={test.steps.length > 0}>
      <summary>Salt test: how much brine thickens it most</summary>
      <p>Take a sample. Time how long a spoonful takes to run through a funnel: first without brine, then after each spoon of brine of 20 %.</p>
      <div className={classes.salt}>
        <NumberField showLabel label="Sample" value={sample_g} step={10} {...grams} unread={sample.unread} onUnread={(text) => setSample((now) => ({ ...now, unread: text ?? undefined }))} onChange={(value) => setSample({ value })} testId="sample" />
        <NumberField showLabel label="Brine so far" value={brine_g} step={1} {...grams} unread={brine.unread} onUnread={(text) => setBrine((now) => ({ ...now, unread: text ?? undefined }))} onChange={(value) => setBrine({ value })} testId="brine" />
        <NumberField showLabel label="Runs for" value={seconds.value ?? null} unit="s" step={1} format={(value) => formatNumber(value, 1, 0)} parse={parseNumber} unread={seconds.unread} onUnread={(text) => setSeconds((now) => ({ ...now, unread: text ?? undefined }))} onChange={(value) => setSeconds({ value })} testId="seconds" />
        <button type="button" className={make.big} disabled={!isRead || sample_g === null || brine_g === null || seconds.value == null} onClick={() => void note()} data-testid="note-salt">
          Note it
        </button>
      </div>
      {problem && (
        <p className={make.problem} role="alert">
          <Sentence>{saidOf(problem)}</Sentence>
        </p>
      )}
      {test.steps.length > 1 && <Curve test={test} />}
      {test.curve && (
        <p data-testid="salt-says">
          <Sentence>{test.curve.words}</Sentence>
        </p>
      )}
    </details>
  );
}

/** Seconds over brine. */
function Curve({ test }: { test: PreparationRun['salt_test'] }) {
  const peak = test.curve?.peak_percent ?? null;
  const points = [...test.steps].sort((one, other) => one.brine_g - other.brine_g);
  const most = Math.max(...points.map((one) => one.seconds));
  const widest = Math.max(...points.map((one) => one.brine_g), 1e-9);
  const x = (brine: number) => 36 + (340 * brine) / widest;
  const y = (seconds: number) => 130 - (110 * seconds) / most;
  return (
    <svg viewBox="0 0 400 160" className={classes.curve} role="img" aria-label={`${points.length} steps, thickest at ${formatNumber(points.find((one) => one.seconds === most)?.brine_g ?? 0, 1)} g of brine`}>
      <line x1="36" y1="130" x2="380" y2="130" />
      <line x1="36" y1="14" x2="36" y2="130" />
      {peak !== null && <line x1={x((peak * test.sample_g) / 100)} x2={x((peak * test.sample_g) / 100)} y1="14" y2="130" strokeDasharray="4 4" />}
      <path d={points.map((one, i) => `${i === 0 ? 'M' : 'L'}${x(one.brine_g)} ${y(one.seconds)}`).join(' ')} />
      {points.map((one, i) => (
        <circle key={`${one.brine_g} ${i}`} cx={x(one.brine_g)} cy={y(one.seconds)} r="4" />
      ))}
      <text x="36" y="148">
        0 g
      </text>
      <text x="380" y="148" textAnchor="end">
        {formatNumber(widest, 1, 0)} g brine
      </text>
      <text x="30" y="24" textAnchor="end">
        {formatNumber(most, 0)} s
      </text>
    </svg>
  );
}
