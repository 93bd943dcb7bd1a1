import { useLocalStorage } from '@mantine/hooks';
import { useEffect, useState } from 'react';

import classes from './Make.module.css';
import { useWork } from './MakeContext';
import { signal } from './signals';

const MINUTES = [1, 5, 10, 20];
const AGAIN_MS = 4000;

const TICK_MS = 500;

/** The time, as a clock on the wall would have it. */
function useNow(): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const clock = setInterval(() => setNow(Date.now()), TICK_MS);
    return () => clearInterval(clock);
  }, []);
  return now;
}

function useTimer(batchId: string) {
  const [endsAt, setEndsAt] = useLocalStorage<number | null>({
    key: `sapolin.timer.${batchId}`,
    defaultValue: null,
    getInitialValueInEffect: false,
  });
  const add = (minutes: number) =>
    setEndsAt((ends) => (ends === null || ends <= Date.now() ? Date.now() : ends) + minutes * 60_000);
  return { endsAt, setEndsAt, add };
}

/** Times of a step that are worth a timer, each started by a touch. */
export function StepTimers({ minutes }: { minutes: readonly number[] }) {
  const { run } = useWork();
  const { setEndsAt } = useTimer(run.record.id);
  if (minutes.length === 0) return null;
  return (
    <div className={classes.stages}>
      {minutes.map((one) => (
        <button key={one} type="button" className={classes.timerButton} onClick={() => setEndsAt(Date.now() + one * 60_000)} data-testid={`timer-${one}`}>
          ⏱ Ring in {one} min
        </button>
      ))}
    </div>
  );
}

/** A kitchen timer that outlives a reload and rings until it is heard. */
export function TimerPanel() {
  const { run } = useWork();
  const { endsAt, setEndsAt, add } = useTimer(run.record.id);
  const now = useNow();
  const isRunning = endsAt !== null;
  const left = endsAt === null ? 0 : Math.ceil((endsAt - now) / 1000);
  const isOver = isRunning && left <= 0;
  useEffect(() => {
    if (!isOver) return undefined;
    signal('alarm');
    const again = setInterval(() => signal('alarm'), AGAIN_MS);
    return () => clearInterval(again);
  }, [isOver]);
  return (
    <section className={classes.panel} aria-label="Timer" data-over={isOver}>
      <header>
        <h2>Timer</h2>
        {isRunning && (
          <button type="button" onClick={() => setEndsAt(null)} data-testid="timer-stop">
            {isOver ? 'Heard' : 'Stop'}
          </button>
        )}
      </header>
      {isRunning && (
        <p className={classes.timer} role="timer" data-testid="timer">
          {isOver ? 'Time is up' : `${Math.floor(left / 60)}:${String(left % 60).padStart(2, '0')}`}
        </p>
      )}
      <div className={classes.minutes}>
        {MINUTES.map((minutes) => (
          <button key={minutes} type="button" onClick={() => add(minutes)}>
            +{minutes} min
          </button>
        ))}
      </div>
    </section>
  );
}
