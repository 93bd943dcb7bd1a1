/** The wanted target ranges of a formula: its own, or those of its purpose. Pure edits, as in edits.ts. */
import type { TargetRange, Formula, Purpose, Quality, Target } from '../api/types';
import type { Edge } from '../design/scales/RangeEdges';

export function targetRangesOf(formula: Formula, purpose: Purpose | undefined): TargetRange[] {
  return formula.target_ranges ?? purpose?.target_ranges ?? [];
}

/** Move one edge; a quality without a target range gets one that reaches to the other end of its axis. */
export function setEdge(
  formula: Formula,
  purpose: Purpose | undefined,
  quality: Quality,
  edge: Edge,
  points: number,
): Formula {
  const targetRanges = targetRangesOf(formula, purpose);
  const targetRange = targetRanges.find((one) => one.quality === quality.id) ?? {
    quality: quality.id,
    minimum: quality.axis_minimum,
    maximum: quality.axis_maximum,
  };
  return withTargetRange(formula, targetRanges, { ...targetRange, [edge]: points });
}

export function dropTargetRange(formula: Formula, purpose: Purpose | undefined, quality: string): Formula {
  return { ...formula, target_ranges: targetRangesOf(formula, purpose).filter((one) => one.quality !== quality) };
}

function withTargetRange(formula: Formula, targetRanges: TargetRange[], targetRange: TargetRange): Formula {
  const known = targetRanges.some((one) => one.quality === targetRange.quality);
  return {
    ...formula,
    target_ranges: known ? targetRanges.map((one) => (one.quality === targetRange.quality ? targetRange : one)) : [...targetRanges, targetRange],
  };
}

/** Target ranges as targets that can be saved by name, open where they reach the start of their axis. */
export function toTargets(targetRanges: TargetRange[], qualities: Quality[]): Target[] {
  return targetRanges.map((targetRange) => {
    const axis = qualities.find((quality) => quality.id === targetRange.quality);
    return {
      feature: targetRange.quality,
      minimum: axis && targetRange.minimum <= axis.axis_minimum ? null : targetRange.minimum,
      maximum: targetRange.maximum,
      required: false,
      weight: 1,
    };
  });
}

/** The target ranges among targets: those on qualities, closed at the ends of their axes where they are open. */
export function toTargetRanges(targets: Target[], qualities: Quality[]): TargetRange[] {
  return targets.flatMap((target) => {
    const quality = qualities.find((known) => known.id === target.feature);
    if (quality === undefined) return [];
    const minimum = target.minimum ?? quality.axis_minimum;
    return [{ quality: quality.id, minimum, maximum: target.maximum ?? Math.max(quality.axis_maximum, minimum) }];
  });
}
