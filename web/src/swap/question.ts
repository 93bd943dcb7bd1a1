import type { Choice, Formula, OilSummary, SwapCandidate, SwapQuestion } from '../api/types';
import { formatNumber } from '../design/quantity';

/** What is asked of a swap, but for the formula. */
export type Asked = Omit<SwapQuestion, 'formula'>;

type Without = Asked['free_of'][number];

/** What the reason itself rules out among what comes in, in the order of `words`. */
export function impliedBy(reason: Asked['reason'], going: readonly string[], oils: OilSummary[], words: readonly string[]): Without[] {
  const out = oils.filter((oil) => going.includes(oil.id));
  return words.filter((word) => out.some((oil) => oil.ruled_out[reason]?.includes(word as Without) === true)) as Without[];
}

/** What the reason of a question rules out; nothing where a part of what goes may stay. */
export function impliedIn({ reason, outgoing }: Asked, oils: OilSummary[], words: readonly string[]): Without[] {
  return impliedBy(reason, outgoing.filter((out) => out.keep_percent === 0).map((out) => out.oil), oils, words);
}

/** The question with a part changed, and with it what its reason rules out; what the maker ticked stays. */
export function asking(asked: Asked, patch: Partial<Asked>, oils: OilSummary[], words: readonly string[]): Asked {
  const next = { ...asked, ...patch };
  if (patch.reason === undefined && patch.outgoing === undefined) return next;
  const before = impliedIn(asked, oils, words);
  const own = asked.free_of.filter((word) => !before.includes(word));
  return { ...next, free_of: [...new Set([...own, ...impliedIn(next, oils, words)])] };
}

/** The swap as a note for the version it makes. */
export function inWords(candidate: SwapCandidate, asked: Asked, formula: Formula, oils: OilSummary[], reasons: Choice[]): string {
  const share = (value: number) => formatNumber(value, 1, 0);
  const nameOf = (id: string) => oils.find((known) => known.id === id)?.name.toLowerCase() ?? id;
  const incoming = candidate.incoming.map((oil) => `${oil.name.toLowerCase()} ${share(oil.share_percent)}`).join(', ');
  const moved = candidate.moved
    .map((oil) => `, ${oil.name.toLowerCase()} ${oil.share_percent > 0 ? '+' : ''}${share(oil.share_percent)}`)
    .join('');
  const reason = reasons.find((known) => known.value === asked.reason)?.label ?? '';
  const without = [...new Set([...formula.free_of, ...asked.free_of])].join(', ');
  const out = asked.outgoing
    .map(({ oil, keep_percent: keep }) => `${nameOf(oil)}${keep > 0 ? ` down to ${share(keep)} %` : ' out'}`)
    .join(' and ');
  return `${out} (${reason}): ${incoming}${moved}.${without ? ` Without ${without}.` : ''}`;
}
