import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import { at } from '../api/queries';
import type { TimelineEntry } from '../api/types';
import buttons from '../design/buttons.module.css';
import { shortDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { useShown } from '../design/units';
import classes from './History.module.css';

const AT_FIRST = 12;
const PLACES: Partial<Record<TimelineEntry['kind'], string>> = { batch: '/batches', comparison: '/comparisons', trial: '/trials' };

/** The life of a formula: what changed, what was made, what it did. */
export function Timeline({ formulaId }: { formulaId: string }) {
  const shown = useShown();
  const [isWhole, setWhole] = useState(false);
  const { data: entries = [] } = useQuery({
    queryKey: ['timeline', formulaId],
    queryFn: () => answered(api.GET('/api/formulas/{formula_id}/timeline', at(formulaId))),
    refetchOnMount: 'always',
  });
  const some = isWhole ? entries : entries.slice(0, AT_FIRST);
  return (
    <Panel title="Timeline" aside="what changed, and what it did">
      {entries.length === 0 && <p className="muted">Versions, batches, tests and lessons stand here as they come.</p>}
      <ol className={classes.timeline} data-testid="timeline">
        {some.map((entry, i) => (
          <li key={`${entry.kind} ${entry.id} ${i}`} data-kind={entry.kind}>
            <time>{shortDate(entry.at)}</time>
            {PLACES[entry.kind] === undefined ? <b>{entry.title}</b> : <Link to={`${PLACES[entry.kind]}/${entry.id}`}>{entry.title}</Link>}
            {entry.text.length > 0 && <p>{entry.text.map(shown).join(' · ')}</p>}
          </li>
        ))}
      </ol>
      {entries.length > some.length && (
        <button type="button" className={buttons.link} onClick={() => setWhole(true)}>
          {entries.length - some.length} more
        </button>
      )}
    </Panel>
  );
}
