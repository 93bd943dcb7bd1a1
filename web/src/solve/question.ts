import type { Formula, OilSummary, Quality, SolveQuestion, Target, TargetFeature } from '../api/types';

/** What is asked of a solve, but for the formula. */
export type Asked = Omit<SolveQuestion, 'formula' | 'targets'> & { targets: Target[] };

export type Pool = 'usual' | 'wide' | 'shelf' | 'own';

/** How much a target counts, one step on: a preferred target, one that weighs twice and four times as much, required, and around. */
export function nextDegree({ required, weight }: Target): Pick<Target, 'required' | 'weight'> {
  if (required) return { required: false, weight: 1 };
  return weight >= 4 ? { required: true, weight: 1 } : { required: false, weight: weight * 2 };
}

/** One row a quality: the targets there are, the others open and so not asked for; what is no quality comes last. */
export function rowsOf(targets: Target[], qualities: Quality[]): Target[] {
  const rows = qualities.map(
    ({ id }) => targets.find((one) => one.feature === id) ?? { feature: id, minimum: null, maximum: null, required: false, weight: 1 },
  );
  return [...rows, ...targets.filter((one) => !qualities.some((quality) => quality.id === one.feature))];
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
