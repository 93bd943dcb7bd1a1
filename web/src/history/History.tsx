import { Button } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { at, useNotes } from '../api/queries';
import type { FormulaRecord } from '../api/types';
import { useTellFailure } from '../app/showFailure';
import { WithFormula } from '../app/WithFormula';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { useShown } from '../design/units';
import { FormulaStages } from '../formulas/FormulaStages';
import { Heed } from './Heed';
import classes from './History.module.css';
import { Timeline } from './Timeline';

/** What changed from version to version, what its batches noted, and the way back to any of them. */
export function History() {
  return <WithFormula>{(record) => <OpenHistory record={record} />}</WithFormula>;
}

function OpenHistory({ record }: { record: FormulaRecord }) {
  const shown = useShown();
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const { data: entries = [] } = useQuery({
    queryKey: ['history', record.id],
    queryFn: () => answered(api.GET('/api/formulas/{formula_id}/history', at(record.id))),
    refetchOnMount: 'always',
  });
  const { data: page } = useQuery({
    queryKey: ['batches', record.id],
    queryFn: () => answered(api.GET('/api/batches', { params: { query: { formula_id: record.id } } })),
    refetchOnMount: 'always',
  });
  const batches = page?.batches ?? [];
  const lessons = useNotes(record.id);
  useDocumentTitle(`History of ${record.formula.name} · Sapolin`);
  const goBack = async (number: number) => {
    try {
      const { draft_version: left } = await answered(
        api.POST('/api/formulas/{formula_id}/versions/{number}/return', {
          params: { path: { formula_id: record.id, number } },
          body: { revision: record.revision },
        }),
      );
      await client.invalidateQueries();
      notifications.show({
        message: `Back at version ${number}.${left ? ` What was here is kept as version ${left.number}.` : ''}`,
      });
      void navigate(`/formulas/${record.id}`);
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <div className={columns.page}>
      <div className={heads.header}>
        <h1>{record.formula.name}</h1>
        <FormulaStages formulaId={record.id} />
      </div>
      <div className={heads.sides}>
        <div className={columns.column}>
        <Panel title="Versions" aside={`${Math.max(entries.length - 1, 0)} kept`}>
          {entries.length <= 1 && (
            <p className="muted">No version is kept yet. Keep one in Design before you try something: it can always be gone back to.</p>
          )}
          <ol className={classes.versions} data-testid="history">
            {entries.map((entry) => (
              <li key={entry.number ?? 'draft'}>
                <div>
                  <strong>{entry.number === null ? 'Draft' : `Version ${entry.number}`}</strong>
                  {entry.number !== null && entry.note !== '' && <> · {entry.note}</>}
                  <p>
                    {entry.changes.length > 0
                      ? entry.changes.map(shown).join(' · ')
                      : entry.number === null
                        ? 'as the newest version'
                        : 'the first one'}
                  </p>
                </div>
                {entry.number !== null && (
                  <span className={classes.actions}>
                    <Button component={Link} to={`/formulas/${record.id}/compare?with=${record.id},${record.id}:${entry.number}`}>
                      Compare
                    </Button>
                    <Button onClick={() => void goBack(entry.number ?? 0)}>Go back to it</Button>
                  </span>
                )}
              </li>
            ))}
          </ol>
        </Panel>
        <Timeline formulaId={record.id} />
        </div>
        <div className={classes.side}>
          <Panel title="Batches" aside={page === undefined || page.total === 0 ? undefined : String(page.total)}>
            {batches.length === 0 && <p className="muted">None yet.</p>}
            <ul className={classes.batches}>
              {batches.map((batch) => (
                <li key={batch.id}>
                  <Link to={`/batches/${batch.id}`}>{batch.code}</Link>
                  <span className="muted">
                    {batch.version > 0 ? `version ${batch.version}` : 'from the draft'} · {batch.status}
                  </span>
                </li>
              ))}
            </ul>
          </Panel>
          <Panel title="Next time">
            {lessons.length === 0 && <p className="muted">Notes for next time that its batches leave stand here.</p>}
            <ul className={classes.batches}>
              {lessons.map((lesson) => (
                <li key={lesson.text} className={classes.noted} data-heeded={lesson.heeded_at !== null}>
                  <q>{lesson.text}</q>
                  <Heed formulaId={record.id} note={lesson.text} isHeeded={lesson.heeded_at !== null} />
                </li>
              ))}
            </ul>
          </Panel>
        </div>
      </div>
    </div>
  );
}
