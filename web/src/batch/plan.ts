/** Edits of a batch plan as pure functions. */
import type { BatchPlan, Colorant, ColourLine, Mould, MouldUse, PortionPlan, ScentLine } from '../api/types';

type Cut = NonNullable<MouldUse['cut']>;

const SLICES: Cut = { bar_mm: 25, kerf_mm: 1, trim_mm: 0, halved: false };

/** The mould cut otherwise in `part`. */
export function changeCut(use: MouldUse, patch: Partial<Cut>): MouldUse {
  return { ...use, cut: { ...SLICES, ...use.cut, ...patch } };
}

/** A mould taken into the batch, with a way to cut it that its kind calls for. */
export function usedMould(mould: Mould): MouldUse {
  switch (mould.shape.kind) {
    case 'loaf':
    case 'cylinder':
      return { mould, headroom_mm: mould.shape.kind === 'loaf' ? 5 : 0, cut: SLICES };
    case 'slab':
      return { mould, headroom_mm: 5, cut: { ...SLICES, bar_mm: 80, bar_width_mm: 55 } };
    default:
      return { mould, headroom_mm: 0, cut: null };
  }
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

/** One more portion; the shares are evened out, since they have to sum to 100. */
export function addPortion(plan: BatchPlan): BatchPlan {
  const count = Math.max(plan.portions.length + 1, 2);
  const share = Math.floor(1000 / count) / 10;
  const names = ['plain', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth'];
  const portions = Array.from({ length: count }, (_, i) => ({
    name: plan.portions[i]?.name ?? names[i] ?? `portion ${i + 1}`,
    colours: plan.portions[i]?.colours ?? [],
    share_percent: i === count - 1 ? Math.round((100 - share * (count - 1)) * 10) / 10 : share,
  }));
  return { ...plan, portions };
}

/** Take a portion out; its share goes to the largest that stays. */
export function dropPortion(plan: BatchPlan, index: number): BatchPlan {
  const gone = plan.portions[index]?.share_percent ?? 0;
  const left = plan.portions.filter((_, i) => i !== index);
  if (left.length < 2) return { ...plan, portions: left.map((portion) => ({ ...portion, share_percent: 100 })) };
  const largest = left.reduce((best, portion, i) => ((portion.share_percent ?? 0) > (left[best]?.share_percent ?? 0) ? i : best), 0);
  return {
    ...plan,
    portions: left.map((portion, i) =>
      i === largest ? { ...portion, share_percent: Math.round(((portion.share_percent ?? 0) + gone) * 10) / 10 } : portion,
    ),
  };
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

/** The same amount of a colour told another way, to a ten-thousandth. */
export function colourToldBy(line: ColourLine, by: ColourLine['by'], colorant: Colorant | undefined): Partial<ColourLine> {
  if (line.value === null || colorant === undefined || by === line.by) return { by };
  // A level teaspoon for 500 g of oils is a fifth of its grams in percent.
  const percentOfOne = colorant.g_per_tsp / 5;
  const value = by === 'percent_of_oils' ? line.value * percentOfOne : line.value / percentOfOne;
  return { by, value: Math.round(value * 1e4) / 1e4 };
}
