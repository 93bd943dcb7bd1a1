import classes from './SavedMark.module.css';
import type { SaveState } from './draft';
import { clockTime } from '../design/dates';
import { useShown } from '../design/units';

/** Whether what is on screen is on disk. */
export function SavedMark({ save, savedAt, unreadCount }: { save: SaveState; savedAt: string | null; unreadCount: number }) {
  const shown = useShown();
  const time = savedAt === null ? '' : clockTime(savedAt);
  const words: Record<SaveState['kind'], string> = {
    saved: unreadCount > 0 ? `Saved${time && ` ${time}`}, but for what cannot be read` : savedAt === null ? 'Not changed yet' : `Saved ${time}`,
    waiting: 'Changed …',
    saving: 'Saving …',
    offline: 'Not saved: no answer, trying again',
    conflict: 'Not saved: changed elsewhere',
    refused: save.kind === 'refused' ? `Not saved: ${shown(save.message)}` : '',
  };
  const isTrouble = !['saved', 'waiting', 'saving'].includes(save.kind) || unreadCount > 0;
  return (
    <span
      className={classes.saved}
      role="status"
      data-trouble={isTrouble}
      data-testid="save-state"
      data-kind={save.kind}
    >
      {words[save.kind]}
    </span>
  );
}
