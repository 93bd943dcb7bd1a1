/** Edits of a batch plan as pure functions. */
import type { BatchPlan, Colorant, MouldUse, PortionPlan, ScentLine } from '../api/types';

type Cut = NonNullable<MouldUse['cut']>;

/** The mould cut otherwise in `part`. */
export function changeCut(use: MouldUse, patch: Partial<Cut>): MouldUse {
  return { ...use, cut: use.cut && { ...use.cut, ...patch } };
}

export function changeMould(plan: BatchPlan, index: number, change: (use: MouldUse) => MouldUse): BatchPlan {
  return { ...plan, moulds: plan.moulds.map((use, i) => (i === index ? change(use) : use)) };
}

export function changeScent(plan: BatchPlan, index: number, patch: Partial<ScentLine>): BatchPlan {
  return { ...plan, scents: plan.scents.map((line, i) => (i === index ? { ...line, ...patch } : line)) };
}

export function changePortion(plan: BatchPlan, index: number, patch: Partial<PortionPlan>): BatchPlan {
  return { ...plan, portions: plan.portions.map((portion, i) => (i === index ? { ...portion, ...patch } : portion)) };
}

/** The colour a portion is drawn in: that of its first colorant, or the batter's own. */
export function paint(portion: PortionPlan, colorants: Colorant[]): string {
  const first = colorants.find((known) => known.id === portion.colours[0]?.colorant);
  if (first === undefined) return 'var(--tone-lauric)';
  if (first.hue_degrees === null || first.hue_degrees === undefined) {
    return first.kind === 'charcoal' || first.id.includes('black') ? '#3b3f3c' : '#f6f3ea';
  }
  return `hsl(${first.hue_degrees} 38% ${first.kind === 'oxide' || first.kind === 'plant' ? 46 : 58}%)`;
}
