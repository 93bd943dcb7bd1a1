import { startTransition, useDeferredValue, useEffect, useRef, useState, type ComponentType, type ReactNode, type RefObject } from 'react';

import { PHONE } from './phone';

interface LaterProps {
  /** About how tall it will be, px, so that nothing jumps when it comes. */
  height: number;
  /** What stands there until then; nothing by default. */
  instead?: ReactNode;
  children: ReactNode;
}

/** Drawn as soon as the browser has nothing more pressing to do, one after the other: what stands further down, or can wait a blink. */
export function Later({ height, instead, children }: LaterProps) {
  const { isNear, place } = useNear(height);
  if (useTurn(isNear)) return children;
  return (
    <Space height={height} place={place}>
      {instead}
    </Space>
  );
}

/** Drawn with the screen, but on a phone only on the way there: a part of a long page. */
export function OnTheWay({ height, children }: Omit<LaterProps, 'instead'>) {
  const { isNear, place } = useNear(height);
  return isNear ? children : <Space height={height} place={place} />;
}

/** Whether it is time for what can wait a blink, and is near enough to be looked at. */
export function useTurn(isNear = true): boolean {
  const [isTime, setTime] = useState(typeof requestIdleCallback === 'undefined');
  useEffect(() => {
    if (isTime || !isNear) return undefined;
    return inTurn(() => startTransition(() => setTime(true)));
  }, [isTime, isNear]);
  return isTime;
}

/** How far below what is in sight counts as near, before the page is first used and from then on, and how long a place that is not
    waits at most. */
const IN_SIGHT = '0px';
const NEAR = '300px 0px';
const FAR_MS = 5000;

const USES = ['pointerdown', 'keydown', 'scroll'] as const;
let isUsed = false;

/** Have `then` called at the first touch, key or scroll of this page; what comes back ends the waiting. */
function whenUsed(then: () => void): () => void {
  const used = () => {
    end();
    isUsed = true;
    then();
  };
  const end = () => USES.forEach((use) => window.removeEventListener(use, used));
  USES.forEach((use) => window.addEventListener(use, used, { passive: true }));
  return end;
}

/** Whether a place is in sight, or nearly so on a page that is in use. A phone shows the top of a long page: the rest of it is drawn on
    the way there, or when the page has long been quiet. Elsewhere all of a page is near, as is what takes no room. */
function useNear(height: number): { isNear: boolean; place: RefObject<HTMLDivElement | null> } {
  const place = useRef<HTMLDivElement>(null);
  const [isNear, setNear] = useState(() => height === 0 || typeof IntersectionObserver === 'undefined' || !window.matchMedia(PHONE).matches);
  useEffect(() => {
    if (isNear || place.current === null) return undefined;
    const here = place.current;
    const come = () => setNear(true);
    let observer: IntersectionObserver | undefined;
    const lookOut = (rootMargin: string) => {
      observer?.disconnect();
      observer = new IntersectionObserver((seen) => seen.some((one) => one.isIntersecting) && come(), { rootMargin });
      observer.observe(here);
    };
    lookOut(isUsed ? NEAR : IN_SIGHT);
    const end = isUsed ? undefined : whenUsed(() => lookOut(NEAR));
    const late = setTimeout(come, FAR_MS);
    return () => {
      observer?.disconnect();
      end?.();
      clearTimeout(late);
    };
  }, [isNear]);
  return { isNear, place };
}

/** What stands where something is to come. */
function Space({ height, place, children }: { height: number; place: RefObject<HTMLDivElement | null>; children?: ReactNode }) {
  return (
    <div ref={place} style={{ minHeight: height }} aria-hidden={children === undefined || undefined}>
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
    const { isNear, place } = useNear(height);
    const isTime = useTurn(isNear);
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
    return <Space height={height} place={place} />;
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
