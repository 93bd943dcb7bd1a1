import classes from './NumberField.module.css';
import own from './SelectField.module.css';

interface SelectFieldProps<T extends string> {
  label: string;
  /** Draws the label inside the box; otherwise it is for screen readers alone. */
  showLabel?: boolean;
  value: T;
  options: readonly { value: T; label: string }[];
  onChange: (value: T) => void;
  testId?: string;
}

/** A choice in the shape of a NumberField, drawn by the browser so that it opens well on any device. */
export function SelectField<T extends string>(props: SelectFieldProps<T>) {
  const { label, showLabel = false, value, options, onChange, testId } = props;
  return (
    <label className={`${classes.field} ${showLabel ? classes.stacked : ''}`}>
      <span className={classes.box}>
        {showLabel && <span className={classes.label}>{label}</span>}
        <select
          className={own.select}
          aria-label={label}
          value={value}
          onChange={(event) => onChange(event.currentTarget.value as T)}
          data-testid={testId}
        >
          {options.map((option) => (
            <option key={option.value} value={option.value}>
              {option.label}
            </option>
          ))}
        </select>
      </span>
    </label>
  );
}
