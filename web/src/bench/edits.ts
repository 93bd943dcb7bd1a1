/** Edits of a formula as pure functions: what the bench does before the server calculates the result. */
import type { Blend, Formula, OwnMaterial } from '../api/types';
import { tidy } from '../design/quantity';

export type Line = Blend['lines'][number];

export const SHARE_STEP = 0.5;
const FIRST_SHARE = 5;

/** How the amounts of a blend are given; `mixed` when some are shares and some are weights. */
export type Basis = Line['by'] | 'mixed';

export function basisOf(blend: Blend): Basis {
  const [first, ...others] = blend.lines;
  if (first === undefined) return blend.total_oils_g == null ? 'weight_g' : 'percent_of_oils';
  return others.every((line) => line.by === first.by) ? first.by : 'mixed';
}

function withLines(formula: Formula, lines: Line[]): Formula {
  return { ...formula, blend: { ...formula.blend, lines } };
}

function changeLine(formula: Formula, index: number, change: (line: Line) => Line): Formula {
  return withLines(
    formula,
    formula.blend.lines.map((line, i) => (i === index ? change(line) : line)),
  );
}

/** Sum of everything entered, as shares or as weights; where both are mixed, of the shares alone. */
export function enteredSum(blend: Blend): number {
  const by = blend.lines.some((line) => line.by === 'percent_of_oils') ? 'percent_of_oils' : 'weight_g';
  return sumOf(blend, by);
}

function sumOf(blend: Blend, by: Line['by']): number {
  return blend.lines.reduce((sum, line) => sum + (line.by === by ? (line.value ?? 0) : 0), 0);
}

/** Share of the oils that a line has, for drawing it: as entered, whatever the sum; the server calculates. */
export function drawnShare(blend: Blend, line: Line): number {
  const amount = Math.max(0, line.value ?? 0);
  const shares = sumOf(blend, 'percent_of_oils');
  const weights = sumOf(blend, 'weight_g');
  const open = basisOf(blend) === 'mixed' ? Math.max(0, 100 - shares) : 100;
  if (line.by === 'weight_g') return weights > 0 ? (open * amount) / weights : 0;
  const whole = basisOf(blend) === 'mixed' ? Math.max(100, shares) : shares;
  return whole > 0 ? (100 * amount) / whole : 0;
}

export function setAmount(formula: Formula, index: number, amount: number | null): Formula {
  return changeLine(formula, index, (line) => ({ ...line, value: amount }));
}

export function toggleLocked(formula: Formula, index: number): Formula {
  return changeLine(formula, index, (line) => ({ ...line, locked: !line.locked }));
}

export function removeLine(formula: Formula, index: number): Formula {
  return withoutUnused(
    withLines(
      formula,
      formula.blend.lines.filter((_, i) => i !== index),
    ),
  );
}

export function moveLine(formula: Formula, from: number, to: number): Formula {
  const lines: Line[] = [...formula.blend.lines];
  const [moved] = lines.splice(from, 1);
  if (moved === undefined || to < 0 || to > lines.length) return formula;
  lines.splice(to, 0, moved);
  return withLines(formula, lines);
}

/**
 * Add an oil at the end with an amount still to be entered, or the one given. `definitions` are what the formula has to
 * carry when the oil is a material of the maker's own.
 */
export function addOil(
  formula: Formula,
  oil: string,
  amount: number | null = null,
  definitions: readonly OwnMaterial[] = [],
): Formula {
  const basis = basisOf(formula.blend);
  const line: Line = { oil, by: basis === 'mixed' ? 'percent_of_oils' : basis, value: amount, locked: false, added: 'start' };
  return withMaterials(withLines(formula, [...formula.blend.lines, line]), definitions);
}

/** Take `definitions` into the formula, in the place of those with the same id. */
export function withMaterials(formula: Formula, definitions: readonly OwnMaterial[]): Formula {
  const ids = new Set(definitions.map((material) => material.id));
  const kept = formula.materials.filter((material) => !ids.has(material.id));
  return definitions.length === 0 ? formula : { ...formula, materials: [...kept, ...definitions] };
}

/** Leave out the materials that no oil of the blend needs any more. */
function withoutUnused(formula: Formula): Formula {
  const needed = new Set<string>();
  const need = (id: string) => {
    const material = formula.materials.find((one) => one.id === id);
    if (material === undefined || needed.has(id)) return;
    needed.add(id);
    if (material.content.kind === 'recipe') for (const component of material.content.components) need(component.oil);
  };
  for (const line of formula.blend.lines) need(line.oil);
  const materials = formula.materials.filter((material) => needed.has(material.id));
  return materials.length === formula.materials.length ? formula : { ...formula, materials };
}

export function setAdded(formula: Formula, index: number, added: Line['added']): Formula {
  return changeLine(formula, index, (line) => ({ ...line, added }));
}

/** Drop an oil into the blend below line `above`, taking a first share from that line so that the sum holds. */
export function dropOil(
  formula: Formula,
  oil: string,
  above: number,
  definitions: readonly OwnMaterial[] = [],
): Formula {
  const giver = formula.blend.lines[above];
  if (giver === undefined) return addOil(formula, oil, null, definitions);
  const first = (enteredSum(formula.blend) * FIRST_SHARE) / 100;
  const taken = giver.locked ? 0 : Math.min(first, giver.value ?? 0);
  const added = addOil(formula, oil, taken > 0 ? tidy(taken) : null, definitions);
  const reduced = taken > 0 ? setAmount(added, above, tidy((giver.value ?? 0) - taken)) : added;
  return moveLine(reduced, reduced.blend.lines.length - 1, above + 1);
}

/** The nearest lines on either side of the seam under line `seam` that may move; null when one side has none. */
export function seamNeighbours(lines: readonly Line[], seam: number): [upper: number, lower: number] | null {
  const movable = (line: Line | undefined) => line !== undefined && !line.locked && line.value !== null;
  let upper = seam;
  while (upper >= 0 && !movable(lines[upper])) upper -= 1;
  let lower = seam + 1;
  while (lower < lines.length && !movable(lines[lower])) lower += 1;
  if (upper < 0 || lower >= lines.length || lines[upper]?.by !== lines[lower]?.by) return null;
  return [upper, lower];
}

/**
 * Trade across the seam under line `seam`: the upper oil gains `points` percent of the blend, the lower loses them.
 * The sum holds; neither goes below zero.
 */
export function trade(formula: Formula, seam: number, points: number): Formula {
  const neighbours = seamNeighbours(formula.blend.lines, seam);
  if (neighbours === null) return formula;
  const [upper, lower] = neighbours;
  const amount = (index: number) => formula.blend.lines[index]?.value ?? 0;
  const wanted = (points * enteredSum(formula.blend)) / 100;
  const moved = Math.max(-amount(upper), Math.min(wanted, amount(lower)));
  const both = tidy(amount(upper) + amount(lower));
  const upperAfter = tidy(amount(upper) + moved);
  return setAmount(setAmount(formula, upper, upperAfter), lower, tidy(both - upperAfter));
}
