import { useState } from 'react';

import type { Diagnostic, Step } from '../api/types';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { saidOf, useWeights } from '../design/units';
import classes from './Make.module.css';
import { useWork } from './MakeContext';
import { timeOf } from './time';

interface PartProps {
  step: Step;
  isCurrent: boolean;
}

/** What soap goes through while it is cooked or left: each stage is noted when it is seen. */
export function StagesStep({ step, isCurrent }: PartProps) {
  const { run, send } = useWork();
  const reached = run.state.stages ?? [];
  const met = run.state.combined_at;
  const after = (at: string) => (met ? `${formatNumber((new Date(at).getTime() - new Date(met).getTime()) / 60_000, 0)} min` : timeOf(at));
  return (
    <ol className={classes.seen}>
      {step.stages?.map((stage) => {
        const mark = reached.find((one) => one.what === stage.id);
        return (
          <li key={stage.id} data-reached={mark !== undefined}>
            <button
              type="button"
              className={classes.big}
              aria-pressed={mark !== undefined}
              disabled={!isCurrent || mark !== undefined}
              onClick={() => void send({ kind: 'stage_reached', stage: stage.id })}
              data-testid={`stage-${stage.id}`}
            >
              {stage.name}
              <small>{mark ? `after ${after(mark.at)}` : 'not yet'}</small>
            </button>
            <span>{stage.looks}</span>
          </li>
        );
      })}
    </ol>
  );
}

/** A test that soap passes before the work goes on; every one made stays in the record. */
export function TestStep({ step, isCurrent }: PartProps) {
  const { run, send } = useWork();
  const [ph, setPh] = useState<{ value: number | null; unread?: string }>({ value: null });
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  const { test } = step;
  if (!test) return null;
  const made = (run.state.tests ?? []).filter((one) => one.test === test);
  const say = async (outcome: string, value: number | null) => {
    setProblem(null);
    const sent = await send({ kind: 'tested', test, outcome, ph: value, passed: false });
    if (!sent.ok) setProblem(sent.problem);
    else setPh({ value: null });
  };
  const words = (outcome: string, value: number | null) =>
    value !== null ? `pH ${formatNumber(value, 1)}` : (step.outcomes?.find((one) => one.id === outcome)?.label ?? outcome);
  const last = made.at(-1);
  const canSay = ph.value !== null && ph.unread === undefined;
  return (
    <>
      {isCurrent && (
        <div className={classes.stages}>
          {step.outcomes?.map((one) => (
            <button key={one.id} type="button" className={classes.big} aria-pressed={last?.outcome === one.id && last.ph === null} onClick={() => void say(one.id, null)} data-testid={`outcome-${one.id}`}>
              {one.label}
            </button>
          ))}
          {test !== 'clarity' && (
            <div className={classes.typedDegrees}>
              <NumberField
                showLabel
                label="or its pH"
                value={ph.value}
                unit=""
                step={0.5}
                format={(value) => formatNumber(value, 1, 0)}
                parse={parseNumber}
                unread={ph.unread}
                onUnread={(text) => setPh((now) => ({ ...now, unread: text ?? undefined }))}
                onChange={(value) => setPh({ value })}
                testId="ph"
              />
              <button type="button" className={classes.big} disabled={!canSay} onClick={() => void say('', ph.value)} data-testid="note-ph">
                Note it
              </button>
            </div>
          )}
        </div>
      )}
      {made.length > 0 && (
        <ol className={classes.tests} data-testid="tests-made">
          {made.map((one) => (
            <li key={one.seq} data-passed={one.passed}>
              <time>{timeOf(one.at)}</time> {words(one.outcome, one.ph)}: <b>{one.passed ? 'passed' : 'not yet'}</b>
            </li>
          ))}
        </ol>
      )}
      {problem && (
        <p className={classes.problem} role="alert">
          <Sentence>{saidOf(problem)}</Sentence>
        </p>
      )}
    </>
  );
}

/** What went into jars or bottles: how many, and what is in them. */
export function PackStep({ isCurrent }: { isCurrent: boolean }) {
  const { run, send, toPack } = useWork();
  const weights = useWeights();
  const { packed } = run.state;
  const isBottles = toPack.unit === 'bottles';
  const one = isBottles ? 'bottle' : 'jar';
  const [jars, setJars] = useState<{ value: number | null; unread?: string }>({ value: toPack.pieces });
  const [weight, setWeight] = useState<{ value: number | null; unread?: string }>({ value: null });
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  const canSay = jars.value !== null && weight.value !== null && jars.unread === undefined && weight.unread === undefined;
  const say = async () => {
    if (!canSay) return;
    const sent = await send({ kind: 'packed', jars: Math.round(jars.value ?? 0), weight_g: weight.value ?? 0 });
    setProblem(sent.ok ? null : sent.problem);
  };
  return (
    <>
      {packed && (
        <p className={classes.goal} data-testid="packed">
          <b>{weights.tell(packed.weight_g)}</b> in {packed.jars} {packed.jars === 1 ? one : toPack.unit}
        </p>
      )}
      {isCurrent && (
        <div className={classes.typedDegrees}>
          <NumberField
            showLabel
            label={isBottles ? 'Bottles' : 'Jars'}
            value={jars.value}
            unit=""
            step={1}
            format={(value) => formatNumber(value, 0)}
            parse={parseNumber}
            unread={jars.unread}
            onUnread={(text) => setJars((now) => ({ ...now, unread: text ?? undefined }))}
            onChange={(value) => setJars({ value })}
            testId="jars"
          />
          <NumberField
            showLabel
            label="In them, together"
            value={weight.value}
            unit={weights.unit}
            step={10}
            format={(grams) => weights.format(grams, 0)}
            parse={weights.parse}
            unread={weight.unread}
            onUnread={(text) => setWeight((now) => ({ ...now, unread: text ?? undefined }))}
            onChange={(value) => setWeight({ value })}
            testId="packed-weight"
          />
          <button type="button" className={classes.big} disabled={!canSay} onClick={() => void say()} data-testid="note-packed">
            Note it
          </button>
        </div>
      )}
      {problem && (
        <p className={classes.problem} role="alert">
          <Sentence>{saidOf(problem)}</Sentence>
        </p>
      )}
    </>
  );
}

/** What to do when it does not go as it should. */
export function IfNeeded({ step }: { step: Step }) {
  if (!step.if_needed?.length) return null;
  return (
    <details className={classes.needed}>
      <summary>If it does not go so</summary>
      <ul>
        {step.if_needed.map((words) => (
          <li key={JSON.stringify(words)}>
            <Sentence>{words}</Sentence>
          </li>
        ))}
      </ul>
    </details>
  );
}
