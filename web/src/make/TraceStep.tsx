import { useEffect, useState } from 'react';

import classes from './Make.module.css';
import { useMaking } from './MakeContext';

const STAGES = ['emulsion', 'light', 'medium', 'heavy'] as const;
const SEIZED =
  'Seized or riced: leave the blender. Stir hard by hand; a spoonful of warm water or oil may loosen it. Press it into the mould while it gives, or cook it to the end in a slow cooker.';

/** Minutes since the lye met the oils, the stages of trace, and bursts. */
export function TraceStep({ isCurrent }: { isCurrent: boolean }) {
  const { run, send } = useMaking();
  const [now, setNow] = useState(() => Date.now());
  // The server's clock leads; this device only counts on from its last answer.
  const [offset] = useState(() => new Date(run.now).getTime() - Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, []);
  const stages = run.state.marks.filter((mark) => ['emulsion', 'light', 'medium', 'heavy', 'seized'].includes(mark.what));
  const met = run.state.combined_at;
  const since = (at: number) => {
    const seconds = Math.max(0, Math.round((at - (met ? new Date(met).getTime() : at)) / 1000));
    return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`;
  };
  const isSeized = stages.some((mark) => mark.what === 'seized');
  return (
    <>
      <p className={classes.reading} data-testid="trace-timer">
        {since(now + offset)}
        <span>min</span>
      </p>
      <div className={classes.stages}>
        {STAGES.map((stage) => {
          const mark = stages.find((one) => one.what === stage);
          return (
            <button key={stage} type="button" className={classes.big} aria-pressed={mark !== undefined} disabled={!isCurrent || mark !== undefined} onClick={() => void send({ kind: 'traced', stage })}>
              {stage}
              <small>{mark ? since(new Date(mark.at).getTime()) : 'not yet'}</small>
            </button>
          );
        })}
        <button type="button" className={classes.big} disabled={!isCurrent} onClick={() => void send({ kind: 'burst' })}>
          burst<small>{run.state.bursts} so far</small>
        </button>
        <button type="button" className={classes.big} disabled={!isCurrent || isSeized} onClick={() => void send({ kind: 'traced', stage: 'seized' })}>
          it seizes<small>what now?</small>
        </button>
      </div>
      {isSeized && <p className={classes.warning}>△ {SEIZED}</p>}
    </>
  );
}
