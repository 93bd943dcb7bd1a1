import { useId } from 'react';

import type { Criterion } from '../api/types';
import classes from './Trials.module.css';

interface WordScaleProps {
  criterion: Criterion;
  /** From 1 to 5; null while none is chosen. */
  value: number | null;
  onChange: (value: number | null) => void;
}

/** One criterion and its five words. The chosen one, touched again, is taken back. */
export function WordScale({ criterion, value, onChange }: WordScaleProps) {
  const name = useId();
  return (
    <fieldset className={classes.scale} data-testid={`criterion-${criterion.id}`}>
      <legend>
        {criterion.name} {criterion.asks !== undefined && criterion.asks !== '' && <small>{criterion.asks}</small>}
      </legend>
      <div className={classes.words}>
        {criterion.words.map((word, i) => (
          <label key={word} data-chosen={value === i + 1}>
            <input
              type="radio"
              name={name}
              checked={value === i + 1}
              onChange={() => onChange(i + 1)}
              onClick={() => value === i + 1 && onChange(null)}
            />
            {word}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
