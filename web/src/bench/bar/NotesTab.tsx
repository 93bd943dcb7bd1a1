import { useNextTime } from '../../api/queries';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

/** What to remember next time this formula is opened, and what its batches said. */
export function NotesTab() {
  const { draft } = useBench();
  const nextTime = useNextTime(draft.record.id);
  return (
    <>
      {nextTime.length > 0 && (
        <ul className={classes.nextTime} aria-label="Notes of earlier batches for next time">
          {nextTime.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
      <textarea
        className={classes.notes}
        aria-label="Notes for next time"
        placeholder="What you learned, what to try next time …"
        maxLength={20_000}
        rows={nextTime.length > 0 ? 4 : 8}
        value={draft.formula.notes}
        data-testid="notes"
        onChange={(event) => {
          const notes = event.currentTarget.value;
          draft.edit((now) => ({ ...now, notes }), 'notes');
        }}
        onBlur={draft.closeStep}
      />
    </>
  );
}
