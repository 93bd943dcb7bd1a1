import type { Formula, OilSummary, SwapCandidate, SwapQuestion } from '../api/types';
import { formatNumber } from '../shared/quantity';

/** What is asked of a swap, but for the formula. */
export type Asked = Omit<SwapQuestion, 'formula'>;

export const REASONS: { value: Asked['reason']; label: string }[] = [
  { value: 'principle', label: 'on principle' },
  { value: 'allergy', label: 'an allergy' },
  { value: 'vegan', label: 'going vegan' },
  { value: 'out_of_stock', label: 'out of stock' },
  { value: 'price', label: 'its price' },
  { value: 'trace', label: 'its trace' },
  { value: 'shelf_life', label: 'its shelf life' },
];

export const SCHOOLS: { value: Asked['school']; label: string; about: string }[] = [
  { value: 'profile_and_role', label: 'profile and role', about: 'Fatty acids of the whole blend, and the jobs they do. The usual choice.' },
  { value: 'profile', label: 'profile', about: 'Fatty acids alone.' },
  { value: 'role', label: 'role', about: 'Hardness, lather, mildness and the other jobs alone.' },
  { value: 'equal_sap', label: 'equal lye need', about: 'The old rule: one SAP value for another. It says nothing of the bar.' },
];

/** The question a maker most likely has: the named oil out, or the one they mean to do without, or the largest. */
export function firstQuestion(formula: Formula, named: string | null): Asked {
  const present = formula.blend.lines.map((line) => line.oil);
  const unwanted = present.find((oil) => formula.free_of.some((word) => oil.startsWith(word)));
  const out = named !== null && present.includes(named) ? named : (unwanted ?? present[0] ?? '');
  return {
    outgoing: [{ oil: out, keep_percent: 0 }],
    reason: 'principle',
    school: 'profile_and_role',
    into_bands: true,
    others: 'held',
    within_points: 6,
    most_replacements: 2,
    free_of: [],
    pool: null,
    forbidden: [],
    with_specialties: false,
    prices: {},
    step_percent: 1,
  };
}

/** The swap as a note for the version it makes. */
export function inWords(candidate: SwapCandidate, asked: Asked, formula: Formula, oils: OilSummary[]): string {
  const share = (value: number) => formatNumber(value, 1, 0);
  const nameOf = (id: string) => oils.find((known) => known.id === id)?.name.toLowerCase() ?? id;
  const incoming = candidate.incoming.map((oil) => `${oil.name.toLowerCase()} ${share(oil.share_percent)}`).join(', ');
  const moved = candidate.moved
    .map((oil) => `, ${oil.name.toLowerCase()} ${oil.share_percent > 0 ? '+' : ''}${share(oil.share_percent)}`)
    .join('');
  const reason = REASONS.find((known) => known.value === asked.reason)?.label ?? '';
  const without = [...new Set([...formula.free_of, ...asked.free_of])].join(', ');
  const out = asked.outgoing
    .map(({ oil, keep_percent: keep }) => `${nameOf(oil)}${keep > 0 ? ` down to ${share(keep)} %` : ' out'}`)
    .join(' and ');
  return `${out} (${reason}): ${incoming}${moved}.${without ? ` Without ${without}.` : ''}`;
}
