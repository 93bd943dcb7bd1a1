import type { Choice } from '../api/types';

/** What can be chosen, for a SelectField. */
export function optionsOf<T extends string>(choices: readonly Choice[] | undefined): { value: T; label: string }[] {
  return (choices ?? []).map(({ value, label }) => ({ value: value as T, label }));
}
