import type { OilSummary } from '../api/types';

/** Split `shea 5`, `5% shea` or `shea 1 lb 3 oz` into the words of the oil and the amount. */
export function splitAmount(text: string): { words: string; amount: string } {
  const trimmed = text.trim();
  const behind =
    /^(.*?[^\d\s.,/])\s+(\d[\d\s.,/]*(?:\s*(?:%|kg|g|oz|lbs?))?(?:\s+[\d.,/]+\s*(?:kg|g|oz|lbs?))*)$/i.exec(trimmed);
  if (behind) return { words: behind[1] ?? '', amount: behind[2] ?? '' };
  const before = /^(\d[\d\s.,/]*(?:%|kg|g|oz|lbs?)?)\s+(\D.*)$/i.exec(trimmed);
  if (before) return { words: before[2] ?? '', amount: before[1] ?? '' };
  return { words: trimmed, amount: '' };
}

/** Oils whose name or synonyms hold every word, names that start with them first. */
export function findOils(oils: OilSummary[], words: string): OilSummary[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const rank = (oil: OilSummary): number => {
    const name = oil.name.toLowerCase();
    const all = [name, oil.id, ...oil.synonyms.map((word) => word.toLowerCase())].join(' ');
    if (!wanted.every((word) => all.includes(word))) return -1;
    return name.startsWith(wanted.join(' ')) ? 0 : name.includes(wanted[0] ?? '') ? 1 : 2;
  };
  return oils
    .map((oil) => ({ oil, rank: rank(oil) }))
    .filter((entry) => entry.rank >= 0)
    .sort((a, b) => a.rank - b.rank)
    .map((entry) => entry.oil);
}
