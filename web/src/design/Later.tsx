import { useEffect, useState, type ReactNode } from 'react';

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
    const waiting = requestIdleCallback(() => setTime(true), { timeout: LATEST_MS });
    return () => cancelIdleCallback(waiting);
  }, [isTime]);
  return isTime ? children : <div style={{ minHeight: height }} aria-hidden />;
}

const LATEST_MS = 400;
