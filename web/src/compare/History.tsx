import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import { at } from '../api/queries';
import { Panel } from '../design/Panel';
import { useShown } from '../design/units';
import classes from './Compare.module.css';

/** What changed from version to version, in words, the newest first. */
export function History({ formulaId, onCompare }: { formulaId: string; onCompare: (number: number) => void }) {
  const shown = useShown();
  const { data: entries = [] } = useQuery({
    queryKey: ['history', formulaId],
    queryFn: () => answered(api.GET('/api/formulas/{formula_id}/history', at(formulaId))),
    refetchOnMount: 'always',
  });
  return (
    <Panel title="What changed" aside={`${Math.max(entries.length - 1, 0)} versions kept`}>
      {entries.length <= 1 && <p className={classes.none}>No version has been kept yet; keep one on the bench.</p>}
      <ol className={classes.history} data-testid="history">
        {entries.map((entry) => (
          <li key={entry.number ?? 'draft'}>
            <strong>{entry.number === null ? 'Draft' : `Version ${entry.number}`}</strong>{' '}
            {entry.number !== null && entry.note}
            <span>{entry.changes.length > 0 ? entry.changes.map(shown).join(' · ') : entry.number === null ? 'as the newest version' : ''}</span>
            {entry.number !== null && (
              <button type="button" onClick={() => onCompare(entry.number ?? 0)}>
                Compare
              </button>
            )}
          </li>
        ))}
      </ol>
    </Panel>
  );
}
