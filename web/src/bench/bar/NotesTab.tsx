import { useState } from 'react';

import { useNextTime } from '../../api/queries';
import { Heed } from '../../history/Heed';
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
            <li key={note}>
              {note} <Heed formulaId={draft.record.id} note={note} />
            </li>
          ))}
        </ul>
      )}
      <Tags />
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

/** Words of the maker's own to find the formula by, with commas between them. */
function Tags() {
  const { draft } = useBench();
  const tags = draft.formula.tags ?? [];
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    if (typed === null) return;
    const words = typed.split(',').map((word) => word.trim().slice(0, MOST_LETTERS)).filter(Boolean);
    draft.edit((now) => ({ ...now, tags: [...new Set(words)].slice(0, MOST_TAGS) }));
    setTyped(null);
  };
  return (
    <input
      className={classes.tags}
      aria-label="Tags, with commas between them"
      placeholder="Tags: winter, gift"
      value={typed ?? tags.join(', ')}
      data-testid="tags"
      onChange={(event) => setTyped(event.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === 'Enter') keep();
        if (event.key === 'Escape') setTyped(null);
      }}
    />
  );
}

const MOST_TAGS = 12;
const MOST_LETTERS = 40;
