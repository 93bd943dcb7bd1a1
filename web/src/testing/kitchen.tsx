/** Batches on the server for the screens under test, and make day around a part of its screen. */
import { useState, type ReactNode } from 'react';

import { answered, api } from '../api/client';
import { newKey } from '../api/newKey';
import type { BatchPlan, DeviceReadings, FormulaRecord, Progress, Run } from '../api/types';
import { MakeContext, ReadingsContext, WorkContext } from '../make/MakeContext';
import { workOf } from '../make/workOf';
import { movedOn, useRun, wholeRun, type RunEvent } from '../make/useRun';
import { remember } from './made';

/** A formula of the demo, by its name. */
export async function demoFormula(name: string): Promise<FormulaRecord> {
  const found = await answered(api.GET('/api/formulas', { params: { query: { search: name } } }));
  const one = found.formulas.find((summary) => summary.name === name);
  if (one === undefined) throw new Error(`The demo has no ${name}.`);
  return answered(api.GET('/api/formulas/{formula_id}', { params: { path: { formula_id: one.id } } }));
}

/** A formula of one's own that starts as one of the demo. */
export async function ownFormula(name: string, like = 'Hut guest bar'): Promise<FormulaRecord> {
  const { formula } = await demoFormula(like);
  const own = await answered(api.POST('/api/formulas', { body: { ...formula, name } }));
  remember(`/api/formulas/${own.id}`);
  return own;
}

export interface Batch {
  id: string;
  run: () => Promise<Run>;
  /** Add to the record; whatever is refused fails the test. */
  send: (event: RunEvent) => Promise<Run>;
  /** Set the scale to zero for an item; whatever is refused fails the test. */
  tare: (item: string) => Promise<Run>;
  /** Do everything before a step as planned. */
  upTo: (stepId: string) => Promise<Run>;
}

/** A batch in the workshop's short loaf, changed in `part`. */
export async function newBatch(formula = 'Hut guest bar', patch: Partial<BatchPlan> = {}): Promise<Batch> {
  const record = await demoFormula(formula);
  const moulds = await answered(api.GET('/api/moulds'));
  const loaf = moulds.find(({ mould }) => mould.shape.kind === 'loaf');
  if (loaf === undefined) throw new Error('The demo has no loaf.');
  const start = await answered(api.GET('/api/formulas/{formula_id}/batch-plan', { params: { path: { formula_id: record.id } } }));
  const plan = { ...start, size: { by: 'moulds' as const, available_g: {} }, scents: [], portions: [], moulds: [loaf.starting_use], ...patch };
  const { id } = await answered(api.POST('/api/batches', { body: plan }));
  remember(`/api/batches/${id}`);
  return batchOf(id);
}

export function batchOf(id: string): Batch {
  const path = { path: { batch_id: id } };
  const run = async () => wholeRun(await answered(api.GET('/api/batches/{batch_id}/run', { params: path })));
  const after = async (progress: Promise<Progress>) => {
    const moved = await progress;
    return movedOn(await run(), moved);
  };
  /** Seen: how the record stands, with the revision of the plan. */
  const added = async (event: RunEvent, seen?: Run) => {
    const { events, record } = seen ?? (await run());
    const told = event.kind === 'started' ? { ...event, plan_revision: record.revision } : event;
    return answered(api.POST('/api/batches/{batch_id}/events', { params: path, body: { key: newKey(), after_seq: events, event: told } }));
  };
  const send = (event: RunEvent) => after(added(event));
  const tare = (item: string) =>
    after(answered(api.POST('/api/batches/{batch_id}/tare', { params: path, body: { key: newKey(), after_seq: null, item, emptied: false, sure: false } })));
  const upTo = async (stepId: string) => {
    let now = await run();
    const add = async (event: RunEvent) => {
      now = movedOn(now, await added(event, now));
    };
    if (now.state.status === 'planned') await add({ kind: 'started', targets_g: {} });
    for (const step of now.prepared.steps) {
      if (step.id === stepId) break;
      if (now.state.done.includes(step.id)) continue;
      if (step.weigh) {
        const weight_g = now.state.targets_g[step.weigh.item] ?? 0;
        await add({ kind: 'captured', item: step.weigh.item, weight_g, source: 'typed', tared: true, tare: '', adds: false, sure: false });
      }
      if (step.test) await add({ kind: 'tested', test: step.test, outcome: step.outcomes?.[0]?.id ?? '', ph: null, passed: false });
      if (step.kind === 'pack') await add({ kind: 'packed', jars: 1, weight_g: now.prepared.planned.size.batter_g });
      await add({ kind: 'step_done', step: step.id, confirmed: step.checks });
    }
    return now;
  };
  return { id, run, send, tare, upTo };
}

type Played = Partial<DeviceReadings['scale']> & { celsius?: Record<string, number> };

/** What scale and thermometer show; a steady, tared scale unless said otherwise. */
export function devicesShowing({ celsius = { oils: 40, lye: 40, room: 20 }, ...scale }: Played = {}): DeviceReadings {
  return {
    scale: { state: 'steady', weight_g: 0, tare: null, resolution_g: 0.1, capacity_g: 5000, ...scale },
    thermometer: { state: 'reading', celsius },
    is_simulated: true,
  };
}

interface MakingRoomProps {
  batch: Batch;
  /** What the devices show, at first. */
  devices?: DeviceReadings | null;
  children: (run: Run, show: (devices: DeviceReadings | null) => void) => ReactNode;
}

/** Make day of a batch, with devices that show what the test says. */
export function MakingRoom({ batch, devices = null, children }: MakingRoomProps) {
  const { run, send, tare } = useRun(batch.id);
  const [shown, setShown] = useState(devices);
  if (!run) return null;
  return (
    <MakeContext value={{ run, send, tare }}>
      <WorkContext value={workOf({ run, send, tare })}>
        <ReadingsContext value={shown}>{children(run, setShown)}</ReadingsContext>
      </WorkContext>
    </MakeContext>
  );
}
