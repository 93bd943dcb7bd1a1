import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

/** What to remember next time this formula is opened. */
export function NotesTab() {
  const { draft } = useBench();
  return (
    <textarea
      className={classes.notes}
      aria-label="Notes for next time"
      placeholder="What you learned, what to try next time …"
      maxLength={20_000}
      rows={8}
      value={draft.formula.notes}
      data-testid="notes"
      onChange={(event) => {
        const notes = event.currentTarget.value;
        draft.edit((now) => ({ ...now, notes }), 'notes');
      }}
      onBlur={draft.closeStep}
    />
  );
}
