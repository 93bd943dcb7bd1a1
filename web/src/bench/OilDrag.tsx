import { DndContext, DragOverlay, PointerSensor, pointerWithin, useDndContext, useSensor, useSensors, type DragEndEvent, type Modifier } from '@dnd-kit/core';
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
      <DragOverlay dropAnimation={null} modifiers={[besidePointer]} style={{ width: 'auto', height: 'auto' }} className={classes.ghost}>
        <Carried />
      </DragOverlay>
    </DndContext>
  );
}

function Carried() {
  const { oils } = useBench();
  const { active } = useDndContext();
  const oil = oils.get(String(active?.id));
  return (
    oil && (
      <>
        <Swatch group={oil.group} hard={oil.hard} /> {oil.name}
      </>
    )
  );
}

/** The name stands beside the pointer, wherever its row was taken. */
const besidePointer: Modifier = ({ activatorEvent, activeNodeRect, transform }) => {
  if (activeNodeRect === null || !(activatorEvent instanceof PointerEvent)) return transform;
  const x = activatorEvent.clientX - activeNodeRect.left + 12;
  const y = activatorEvent.clientY - activeNodeRect.top + 8;
  return { ...transform, x: transform.x + x, y: transform.y + y };
};
