import boxes from './NumberField.module.css';
import own from './TextBox.module.css';

interface TextBoxProps {
  label: string;
  value: string;
  maxLength: number;
  onChange: (value: string) => void;
  onLeave?: () => void;
  placeholder?: string;
  /** What is wrong with it, said below. */
  problem?: string | undefined;
  testId: string;
}

/** A line of text in the shape of a NumberField, so that both stand well beside one another. */
export function TextBox({ label, value, maxLength, onChange, onLeave, placeholder, problem, testId }: TextBoxProps) {
  return (
    <label className={`${boxes.field} ${boxes.stacked} ${problem === undefined ? '' : boxes.wrong}`}>
      <span className={boxes.box}>
        <span className={boxes.label}>{label}</span>
        <input
          className={own.text}
          value={value}
          maxLength={maxLength}
          placeholder={placeholder}
          onChange={(event) => onChange(event.currentTarget.value)}
          onBlur={onLeave}
          data-testid={testId}
        />
      </span>
      {problem !== undefined && (
        <span className={boxes.message} role="alert">
          {problem}
        </span>
      )}
    </label>
  );
}
