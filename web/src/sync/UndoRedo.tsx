import buttons from '../design/buttons.module.css';
import { UndoIcon } from '../design/icons';

interface UndoRedoProps {
  draft: { canUndo: boolean; canRedo: boolean; undo: () => void; redo: () => void };
}

/** One step back in what is edited, and one on again. */
export function UndoRedo({ draft }: UndoRedoProps) {
  return (
    <>
      <button type="button" className={buttons.icon} onClick={draft.undo} disabled={!draft.canUndo} aria-label="Undo" title="Undo (Ctrl+Z)">
        <UndoIcon />
      </button>
      <button type="button" className={buttons.icon} onClick={draft.redo} disabled={!draft.canRedo} aria-label="Redo" title="Redo (Ctrl+Shift+Z)">
        <UndoIcon flip />
      </button>
    </>
  );
}
