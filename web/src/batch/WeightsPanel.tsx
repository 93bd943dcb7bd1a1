import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import { Panel } from '../design/Panel';
import classes from './Batch.module.css';
import { useBatch } from './BatchContext';

/** Everything to weigh, in grams and ounces, as the sheet prints it. */
export function WeightsPanel() {
  const { draft, isStale, work } = useBatch();
  const { record, save } = draft;
  const { data: sheet } = useQuery({
    queryKey: ['sheet', record.id, record.revision],
    queryFn: () => answered(api.GET('/api/batches/{batch_id}/sheet', { params: { path: { batch_id: record.id } } })),
    enabled: work !== null && !isStale && save.kind === 'saved',
    placeholderData: (previous) => previous,
    retry: false,
  });
  return (
    <Panel title="Weights" aside="as the sheet prints them">
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- what scrolls must be reached by keyboard */}
      <div className={classes.scroll} tabIndex={0} role="group" aria-label="Weights in grams and ounces">
        <table className={`${classes.weights} ${isStale ? 'stale' : ''}`}>
          <thead>
            <tr>
              <td />
              <th>g</th>
              <th>oz</th>
            </tr>
          </thead>
          {sheet?.sections.map((section) => (
            <tbody key={section.title || 'all'}>
              {section.rows.map((row) => (
                <tr key={row.name} data-caustic={row.caustic}>
                  <td>
                    {row.name} <small>{row.note}</small>
                  </td>
                  <td>{row.g}</td>
                  <td>{row.oz}</td>
                </tr>
              ))}
              {section.total && (
                <tr className={classes.total}>
                  <td>{section.total.name}</td>
                  <td>{section.total.g}</td>
                  <td>{section.total.oz}</td>
                </tr>
              )}
            </tbody>
          ))}
        </table>
      </div>
    </Panel>
  );
}
