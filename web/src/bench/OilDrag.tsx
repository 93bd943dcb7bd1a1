import { DndContext, DragOverlay, PointerSensor, pointerWithin, useDndContext, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import type { ReactNode } from 'react';

import { useDefinitions } from '../api/queries';
import { Swatch } from '../design/Swatch';
import { useBench } from './BenchContext';
import { dropOil } from './edits';
import classes from './Loaf.module.css';

/** A press that moves less than this is a tap, px. */
const SLACK_PX = 6;

/** Carries an oil from the list of oils to a stratum of the loaf, by mouse, pen or finger; by keyboard, Enter adds it at the end. */
export function OilDrag({ children }: { children: ReactNode }) {
  const { draft } = useBench();
  const definitionsOf = useDefinitions();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: SLACK_PX } }));
  const drop = ({ active, over }: DragEndEvent) => {
    const oilId = String(active.id);
    if (over === null || draft.formula.blend.lines.some((line) => line.oil === oilId)) return;
    draft.edit((formula) => dropOil(formula, oilId, Number(over.id), definitionsOf(oilId)));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={pointerWithin} autoScroll={false} onDragEnd={drop}>
      {children}
      <DragOverlay dropAnimation={null} style={{ width: 'auto', height: 'auto' }}>
        <Carried />
      </DragOverlay>
    </DndContext>
  );
}

/** The name stands beside the pointer, wherever its row was taken. */
function Carried() {
  const { oils } = useBench();
  const { active, activatorEvent, activeNodeRect } = useDndContext();
  const oil = oils.get(String(active?.id));
  if (oil === undefined) return null;
  const isTaken = activeNodeRect !== null && activatorEvent instanceof PointerEvent;
  const x = isTaken ? activatorEvent.clientX - activeNodeRect.left + 12 : 0;
  const y = isTaken ? activatorEvent.clientY - activeNodeRect.top + 8 : 0;
  return (
    <span className={classes.ghost} style={{ transform: `translate(${x}px, ${y}px)` }}>
      <Swatch group={oil.group} hard={oil.hard} /> {oil.name}
    </span>
  );
}
