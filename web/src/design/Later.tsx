import { startTransition, useDeferredValue, useEffect, useState, type ComponentType, type ReactNode } from 'react';

interface LaterProps {
  /** About how tall it will be, px, so that nothing jumps when it comes. */
  height: number;
  /** What stands there until then; nothing by default. */
  instead?: ReactNode;
  children: ReactNode;
}

/** Drawn as soon as the browser has nothing more pressing to do, one after the other: what stands further down, or can wait a blink. */
export function Later({ height, instead, children }: LaterProps) {
  if (useTurn()) return children;
  return <Space height={height}>{instead}</Space>;
}

/** Whether it is time for what can wait a blink. */
export function useTurn(): boolean {
  const [isTime, setTime] = useState(typeof requestIdleCallback === 'undefined');
  useEffect(() => {
    if (isTime) return undefined;
    return inTurn(() => startTransition(() => setTime(true)));
  }, [isTime]);
  return isTime;
}

/** What stands where something is to come. */
function Space({ height, children }: { height: number; children?: ReactNode }) {
  return (
    <div style={{ minHeight: height }} aria-hidden>
      {children}
    </div>
  );
}

/**
 * A part of a screen that is drawn later, and whose code is fetched then. The rest of the screen stays when it cannot be had.
 *
 * height: about how tall it will be, px.
 */
export function later<P extends object>(height: number, load: () => Promise<ComponentType<P>>): ComponentType<P> {
  let known: ComponentType<P> | null = null;
  return function LaterPart(props: P) {
    const isTime = useTurn();
    const [Part, setPart] = useState(() => known);
    const [isMissing, setMissing] = useState(false);
    useEffect(() => {
      if (!isTime || Part !== null) return undefined;
      if (isMissing) {
        const again = setTimeout(() => setMissing(false), AGAIN_MS);
        return () => clearTimeout(again);
      }
      load().then(
        (found) => {
          known = found;
          startTransition(() => setPart(() => found));
        },
        () => setMissing(true),
      );
      return undefined;
    }, [isTime, isMissing, Part]);
    if (isTime && Part !== null) return <Part {...props} />;
    if (isMissing && height > 0) return <NotFetched height={height} />;
    return <Space height={height} />;
  };
}

function NotFetched({ height }: { height: number }) {
  return (
    <p style={{ minHeight: height }} role="status">
      This part of the screen could not be fetched. It is tried again; if it does not come, load the page again.
    </p>
  );
}

const AGAIN_MS = 3000;

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
