import { startTransition, useDeferredValue, useEffect, useState, type ReactNode } from 'react';

interface LaterProps {
  /** About how tall it will be, px, so that nothing jumps when it comes. */
  height: number;
  children: ReactNode;
}

/** Drawn as soon as the browser has nothing more pressing to do, one after the other: what stands further down, or can wait a blink. */
export function Later({ height, children }: LaterProps) {
  const [isTime, setTime] = useState(typeof requestIdleCallback === 'undefined');
  useEffect(() => {
    if (isTime) return undefined;
    return inTurn(() => startTransition(() => setTime(true)));
  }, [isTime]);
  return isTime ? children : <div style={{ minHeight: height }} aria-hidden />;
}

const LATEST_MS = 400;
const waiting: (() => void)[] = [];
let idle = 0;

/** Have `draw` called when all that came before it are drawn and the browser is idle; what comes back takes it out of the row. */
function inTurn(draw: () => void): () => void {
  waiting.push(draw);
  if (waiting.length === 1) turnOver();
  return () => {
    const place = waiting.indexOf(draw);
    if (place >= 0) waiting.splice(place, 1);
  };
}

/** Draw the next in the row, and then those behind it. */
function turnOver(): void {
  cancelIdleCallback(idle);
  idle = requestIdleCallback(
    () => {
      waiting.shift()?.();
      if (waiting.length > 0) turnOver();
    },
    { timeout: LATEST_MS },
  );
}

interface SlicedProps {
  /** What stands there meanwhile. */
  before: ReactNode;
  children: ReactNode;
}

/** A screen drawn in slices between which a touch is answered, not in one go when its data come. */
export function Sliced({ before, children }: SlicedProps) {
  return useDeferredValue(true, false) ? children : before;
}
