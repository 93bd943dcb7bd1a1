import { notifications } from '@mantine/notifications';
import { useQueryClient } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import { useTellFailure } from '../app/showFailure';
import buttons from '../design/buttons.module.css';
import classes from './History.module.css';

interface HeedProps {
  formulaId: string;
  note: string;
  /** It is ticked off already: the button brings it back. */
  isHeeded?: boolean;
}

/** Tick a note for next time off, so that it no longer comes back; undone with a touch. */
export function Heed({ formulaId, note, isHeeded = false }: HeedProps) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const put = async (heeded: boolean) => {
    const notes = await answered(api.PUT('/api/formulas/{formula_id}/next-time', { params: { path: { formula_id: formulaId } }, body: { text: note, heeded } }));
    client.setQueryData(['next-time', formulaId], notes);
    void client.invalidateQueries({ queryKey: ['today'] });
    void client.invalidateQueries({ queryKey: ['timeline', formulaId] });
  };
  const heed = async () => {
    try {
      await put(true);
    } catch (error) {
      tellFailure(error);
      return;
    }
    const id = `heeded-${note}`;
    notifications.show({
      id,
      message: (
        <>
          Heeded: “{note}”.{' '}
          <button type="button" className={buttons.link} onClick={() => { notifications.hide(id); void put(false).catch(tellFailure); }}>
            Undo
          </button>
        </>
      ),
    });
  };
  return (
    <button type="button" className={classes.heed} onClick={() => void (isHeeded ? put(false).catch(tellFailure) : heed())} aria-label={isHeeded ? `Let it come back: ${note}` : `Heeded: ${note}`}>
      {isHeeded ? 'Let it come back' : 'Heeded'}
    </button>
  );
}
