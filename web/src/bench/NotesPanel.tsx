import { Panel } from '../shared/Panel';
import { useBench } from './BenchContext';
import classes from './NotesPanel.module.css';

/** What to remember next time this formula is opened. */
export function NotesPanel() {
  const { draft } = useBench();
  return (
    <Panel title="Notes" aside="for next time">
      <textarea
        className={classes.notes}
        aria-label="Notes for next time"
        placeholder="What you learned, what to try next time …"
        maxLength={20_000}
        rows={2}
        value={draft.formula.notes}
        data-testid="notes"
        onChange={(event) => {
          const notes = event.currentTarget.value;
          draft.edit((now) => ({ ...now, notes }), 'notes');
        }}
        onBlur={draft.closeStep}
      />
    </Panel>
  );
}
