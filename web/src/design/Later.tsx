import { startTransition, useDeferredValue, useEffect, useState, type ReactNode } from 'react';

interface LaterProps {
  /** About how tall it will be, px, so that nothing jumps when it comes. */
  height: number;
  children: ReactNode;
}

/** Drawn as soon as the browser has nothing more pressing to do: what stands further down, or can wait a blink. */
export function Later({ height, children }: LaterProps) {
  const [isTime, setTime] = useState(typeof requestIdleCallback === 'undefined');
  useEffect(() => {
    if (isTime) return undefined;
    const waiting = requestIdleCallback(() => startTransition(() => setTime(true)), { timeout: LATEST_MS });
    return () => cancelIdleCallback(waiting);
  }, [isTime]);
  return isTime ? children : <div style={{ minHeight: height }} aria-hidden />;
}

const LATEST_MS = 400;

interface SlicedProps {
  /** What stands there meanwhile. */
  before: ReactNode;
  children: ReactNode;
}

/** A screen drawn in slices between which a touch is answered, not in one go when its data come. */
export function Sliced({ before, children }: SlicedProps) {
  return useDeferredValue(true, false) ? children : before;
}
