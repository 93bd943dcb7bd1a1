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

export interface Findable {
  id: string;
  name: string;
  synonyms: readonly string[];
}

/** Entries whose name or synonyms hold every word: the very name first, then names that start with it. */
export function matching<T extends Findable>(entries: readonly T[], words: string): T[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const rank = (entry: T): number => {
    const name = entry.name.toLowerCase();
    const all = [name, entry.id, ...entry.synonyms.map((word) => word.toLowerCase())].join(' ');
    if (!wanted.every((word) => all.includes(word))) return -1;
    const whole = wanted.join(' ');
    if (name === whole) return 0;
    if (name.startsWith(whole)) return 1;
    return name.includes(wanted[0] ?? '') ? 2 : 3;
  };
  return entries
    .map((entry) => ({ entry, rank: rank(entry) }))
    .filter((found) => found.rank >= 0)
    .sort((a, b) => a.rank - b.rank)
    .map((found) => found.entry);
}
