import type { CureView } from '../api/types';

/** Where bars of a batch can be taken from: the table (an empty value), and its trays. */
export function sourcesOf({ on_table: onTable, trays }: CureView['state']): { value: string; label: string }[] {
  return [
    ...(onTable > 0 ? [{ value: '', label: `the table (${onTable})` }] : []),
    ...Object.entries(trays).map(([code, count]) => ({ value: code, label: `${code} (${count})` })),
  ];
}
