import { createContext, use, useMemo, useState, type PointerEvent, type ReactNode } from 'react';

import type { OilSummary } from '../api/types';
import { Swatch } from '../design/Swatch';
import classes from './Loaf.module.css';

interface Dragged {
  oil: OilSummary;
  x: number;
  y: number;
}

/** Where an oil can be put down; the loaf is one. */
export interface DropTarget {
  /** The oil is at this point of the window; null when it has been put down or let go. */
  hover: (point: { x: number; y: number } | null) => void;
  drop: (oilId: string, point: { x: number; y: number }) => void;
}

interface OilDragState {
  begin: (oil: OilSummary, event: PointerEvent) => void;
  /** Offer a target; the answer withdraws it. */
  offer: (target: DropTarget) => () => void;
}

const OilDragContext = createContext<OilDragState | null>(null);
const SLACK_PX = 6;

/** Carries an oil from the list of oils to the loaf, by mouse, pen or finger. */
export function OilDragProvider({ children }: { children: ReactNode }) {
  const [dragged, setDragged] = useState<Dragged | null>(null);
  const state = useMemo<OilDragState>(() => {
    const targets = new Set<DropTarget>();
    const begin = (oil: OilSummary, start: PointerEvent) => {
      let moving = false;
      const move = (event: globalThis.PointerEvent) => {
        moving ||= Math.hypot(event.clientX - start.clientX, event.clientY - start.clientY) > SLACK_PX;
        if (!moving) return;
        const point = { x: event.clientX, y: event.clientY };
        setDragged({ oil, ...point });
        for (const target of targets) target.hover(point);
      };
      const end = (event: globalThis.PointerEvent) => {
        window.removeEventListener('pointermove', move);
        window.removeEventListener('pointerup', end);
        window.removeEventListener('pointercancel', end);
        setDragged(null);
        for (const target of targets) {
          target.hover(null);
          if (moving && event.type === 'pointerup') target.drop(oil.id, { x: event.clientX, y: event.clientY });
        }
      };
      window.addEventListener('pointermove', move);
      window.addEventListener('pointerup', end);
      window.addEventListener('pointercancel', end);
    };
    const offer = (target: DropTarget) => {
      targets.add(target);
      return () => void targets.delete(target);
    };
    return { begin, offer };
  }, []);
  return (
    <OilDragContext value={state}>
      {children}
      {dragged !== null && (
        <div className={classes.ghost} style={{ left: dragged.x + 12, top: dragged.y + 8 }} aria-hidden>
          <Swatch group={dragged.oil.group} hard={dragged.oil.hard} /> {dragged.oil.name}
        </div>
      )}
    </OilDragContext>
  );
}

export function useOilDrag(): OilDragState {
  const drag = use(OilDragContext);
  if (drag === null) throw new Error('useOilDrag outside OilDragProvider');
  return drag;
}
