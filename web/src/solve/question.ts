import type { TargetRange, Formula, OilSummary, Purpose, Quality, SolveQuestion, Target, TargetFeature } from '../api/types';

/** What is asked of a solve, but for the formula. */
export type Asked = Omit<SolveQuestion, 'formula' | 'targets'> & { targets: Target[] };

export type Pool = 'usual' | 'wide' | 'own';

/** One row a quality: those with a target range, the others open and so not asked for. */
export function targetsFor(targetRanges: TargetRange[], qualities: Quality[]): Target[] {
  return qualities.map((quality) => {
    const targetRange = targetRanges.find((one) => one.quality === quality.id);
    return {
      feature: quality.id,
      minimum: targetRange && targetRange.minimum > quality.axis_minimum ? targetRange.minimum : null,
      maximum: targetRange?.maximum ?? null,
      required: false,
      weight: 1,
    };
  });
}

export function firstQuestion(formula: Formula, purpose: Purpose | undefined, qualities: Quality[]): Asked {
  return {
    targets: targetsFor(formula.target_ranges ?? purpose?.target_ranges ?? [], qualities),
    pool: null,
    free_of: [],
    with_specialties: false,
    limits: [],
    prices: {},
    available_g: {},
    lifted: [],
    at_hand: [],
    holds_whatever_arrives: false,
    groups: [],
    most_oils: 5,
    least_share_percent: 3,
    step_percent: 1,
    prefer: formula.blend.lines.length > 0 ? 'closer' : 'none',
    most_seconds: 8,
  };
}

/** How much a target counts, one step on: a preferred target, one that weighs twice and four times as much, required, and around. */
export function nextDegree({ required, weight }: Target): Pick<Target, 'required' | 'weight'> {
  if (required) return { required: false, weight: 1 };
  return weight >= 4 ? { required: true, weight: 1 } : { required: false, weight: weight * 2 };
}

/** A saved set as rows: its own, and the qualities it leaves open. */
export function targetsOfSet(targets: Target[], qualities: Quality[]): Target[] {
  const open = qualities.filter((quality) => !targets.some((target) => target.feature === quality.id));
  return [...targets, ...targetsFor([], open)];
}

/** The question as the server takes it: open rows left out. */
export function toQuestion(asked: Asked, formula: Formula): SolveQuestion {
  return { ...asked, formula, targets: asked.targets.filter((row) => row.minimum !== null || row.maximum !== null) };
}

/** The question as a note for the version that answers it. */
export function inWords(asked: Asked, features: TargetFeature[], oils: OilSummary[]): string {
  const name = (id: string) => [...features, ...oils].find((known) => known.id === id)?.name.toLowerCase() ?? id;
  const targetRanges = asked.targets
    .filter((row) => row.minimum !== null || row.maximum !== null)
    .map((row) => `${name(row.feature)} ${row.minimum ?? '…'}–${row.maximum ?? '…'}${row.required ? ' (required)' : ''}`);
  const without = asked.free_of.length > 0 ? `; without ${asked.free_of.join(', ')}` : '';
  const limits = asked.limits.map((limit) => `; ${name(limit.oil)} ${limit.minimum_percent}–${limit.maximum_percent} %`).join('');
  return `Solved for ${targetRanges.join(', ')}; at most ${asked.most_oils} oils${without}${limits}.`;
}
