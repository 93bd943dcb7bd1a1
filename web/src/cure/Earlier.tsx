import { TextInput } from '@mantine/core';

import classes from './Cure.module.css';

interface EarlierProps {
  /** As the browser writes local times; empty: now. */
  value: string;
  onChange: (value: string) => void;
}

/** When what is recorded next happened, where that was not just now. It stays until it is taken back. */
export function Earlier({ value, onChange }: EarlierProps) {
  if (value === '') {
    return (
      <button type="button" className={classes.small} onClick={() => onChange(local(new Date()))} data-testid="earlier">
        It happened earlier
      </button>
    );
  }
  return (
    <span className={classes.earlier} data-testid="earlier-on">
      <TextInput type="datetime-local" aria-label="When it happened" value={value} max={local(new Date())} onChange={(event) => onChange(event.currentTarget.value)} data-testid="earlier-at" />
      <button type="button" className={classes.small} onClick={() => onChange('')}>
        Now again
      </button>
    </span>
  );
}

function local(at: Date): string {
  return new Date(at.getTime() - 60_000 * at.getTimezoneOffset()).toISOString().slice(0, 16);
}
