/** Edits of a formula as pure functions: what the bench does before the server reckons the result. */
import type { Blend, Formula } from '../api/types';
import { tidy } from '../shared/quantity';

export type Line = Blend['lines'][number];

export const SHARE_STEP = 0.5;
const FIRST_SHARE = 5;

export function amountOf(line: Line): number | null {
  return 'share_percent' in line ? line.share_percent : line.weight_g;
}

function withAmount(line: Line, amount: number | null): Line {
  return 'share_percent' in line ? { ...line, share_percent: amount } : { ...line, weight_g: amount };
}

function withLines(formula: Formula, lines: Line[]): Formula {
  return { ...formula, blend: { ...formula.blend, lines } as Blend };
}

function changeLine(formula: Formula, index: number, change: (line: Line) => Line): Formula {
  return withLines(
    formula,
    formula.blend.lines.map((line, i) => (i === index ? change(line) : line)),
  );
}

/** Sum of everything entered, in the unit the blend is led by. */
export function enteredSum(blend: Blend): number {
  return blend.lines.reduce((sum: number, line: Line) => sum + (amountOf(line) ?? 0), 0);
}

export function setAmount(formula: Formula, index: number, amount: number | null): Formula {
  return changeLine(formula, index, (line) => withAmount(line, amount));
}

export function toggleHeld(formula: Formula, index: number): Formula {
  return changeLine(formula, index, (line) => ({ ...line, held: !line.held }));
}

export function removeLine(formula: Formula, index: number): Formula {
  return withLines(
    formula,
    formula.blend.lines.filter((_, i) => i !== index),
  );
}

export function moveLine(formula: Formula, from: number, to: number): Formula {
  const lines: Line[] = [...formula.blend.lines];
  const [moved] = lines.splice(from, 1);
  if (moved === undefined || to < 0 || to > lines.length) return formula;
  lines.splice(to, 0, moved);
  return withLines(formula, lines);
}

/** Add an oil at the end with an amount still to be entered, or the one given. */
export function addOil(formula: Formula, oil: string, amount: number | null = null): Formula {
  const line: Line =
    formula.blend.by === 'percent'
      ? { oil, held: false, share_percent: amount }
      : { oil, held: false, weight_g: amount };
  return withLines(formula, [...formula.blend.lines, line]);
}

/** Drop an oil into the blend below line `above`, taking a first share from that line so that the sum holds. */
export function dropOil(formula: Formula, oil: string, above: number): Formula {
  const giver = formula.blend.lines[above];
  if (giver === undefined) return addOil(formula, oil);
  const first = (enteredSum(formula.blend) * FIRST_SHARE) / 100;
  const taken = giver.held ? 0 : Math.min(first, amountOf(giver) ?? 0);
  const added = addOil(formula, oil, taken > 0 ? tidy(taken) : null);
  const reduced = taken > 0 ? setAmount(added, above, tidy((amountOf(giver) ?? 0) - taken)) : added;
  return moveLine(reduced, reduced.blend.lines.length - 1, above + 1);
}

/** The nearest lines on either side of the seam under line `seam` that may move; null when one side has none. */
export function seamNeighbours(lines: readonly Line[], seam: number): [upper: number, lower: number] | null {
  const movable = (line: Line | undefined) => line !== undefined && !line.held && amountOf(line) !== null;
  let upper = seam;
  while (upper >= 0 && !movable(lines[upper])) upper -= 1;
  let lower = seam + 1;
  while (lower < lines.length && !movable(lines[lower])) lower += 1;
  return upper < 0 || lower >= lines.length ? null : [upper, lower];
}

/**
 * Trade across the seam under line `seam`: the upper oil gains `points` percent of the blend, the lower loses them.
 * The sum holds; neither goes below zero.
 */
export function trade(formula: Formula, seam: number, points: number): Formula {
  const neighbours = seamNeighbours(formula.blend.lines, seam);
  if (neighbours === null) return formula;
  const [upper, lower] = neighbours;
  const amount = (index: number) => amountOf(formula.blend.lines[index] as Line) ?? 0;
  const wanted = (points * enteredSum(formula.blend)) / 100;
  const moved = Math.max(-amount(upper), Math.min(wanted, amount(lower)));
  const both = tidy(amount(upper) + amount(lower));
  const upperAfter = tidy(amount(upper) + moved);
  return setAmount(setAmount(formula, upper, upperAfter), lower, tidy(both - upperAfter));
}
