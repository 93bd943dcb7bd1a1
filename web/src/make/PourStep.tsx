import { useState } from 'react';

import type { Diagnostic } from '../api/types';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber } from '../design/quantity';
import { saidOf, useWeights } from '../design/units';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';
import { Sentence } from '../design/Sentence';

/** How the moulds took it: what was left over or missing teaches the mould. */
export function PourStep({ isCurrent }: { isCurrent: boolean }) {
  const { run } = useMaking();
  return (
    <div className={classes.pours}>
      {run.prepared.planned.moulds.map((fill, i) => (
        <PourRow key={`${fill.name}-${i}`} index={i} isCurrent={isCurrent} />
      ))}
    </div>
  );
}

export function PourRow({ index, isCurrent }: { index: number; isCurrent: boolean }) {
  const { run, send } = useMaking();
  const weights = useWeights();
  const fill = run.prepared.planned.moulds[index];
  const known = run.state.poured_ml[String(index)];
  const [typed, setTyped] = useState<{ value: number | null; unread?: string }>({ value: null });
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  if (!fill) return null;
  const say = async (difference: number) => {
    const sent = await send({ kind: 'poured', mould: index, difference_ml: difference });
    setProblem(sent.ok ? null : sent.problem);
  };
  const canSay = typed.value !== null && typed.unread === undefined;
  const sayTyped = () => {
    if (canSay) void say(typed.value ?? 0);
  };
  return (
    <div className={classes.pour}>
      <b>{fill.name}</b>
      <span>
        {weights.tell(fill.batter_g)}
        {fill.height_mm !== null && fill.height_mm !== undefined && ` · ${formatNumber(fill.height_mm, 0)} mm high`}
      </span>
      {known !== undefined ? (
        <span className="muted">
          {leftOver(known)}
        </span>
      ) : (
        isCurrent && (
          <>
            <button type="button" className={classes.big} onClick={() => void say(0)}>
              just filled
            </button>
            <NumberField
              showLabel
              label="left over (− short)"
              value={typed.value}
              unit="mL"
              step={10}
              format={(value) => formatNumber(value, 0)}
              parse={parseNumber}
              unread={typed.unread}
              onUnread={(text) => setTyped((now) => ({ ...now, unread: text ?? undefined }))}
              onChange={(value) => setTyped({ value })}
              onKeyDown={(event) => {
                if (event.key === 'Enter') sayTyped();
              }}
              testId={`left-over-${index}`}
            />
            <button type="button" className={classes.big} disabled={!canSay} onClick={sayTyped}>
              Note it
            </button>
          </>
        )
      )}
      {problem && (
        <p className={classes.problem} role="alert">
          <Sentence>{saidOf(problem)}</Sentence>
        </p>
      )}
    </div>
  );
}

/** How a mould took its batter, in words. */
export function leftOver(differenceMl: number): string {
  if (differenceMl === 0) return 'just filled';
  return differenceMl > 0 ? `${formatNumber(differenceMl, 0)} mL left over` : `${formatNumber(-differenceMl, 0)} mL short`;
}
