import { Drawer, Loader, Text } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import type { Formula, Working } from '../api/types';
import { formatNumber } from './quantity';
import classes from './WorkingDrawer.module.css';

interface WorkingDrawerProps {
  /** The figure to explain; null closes the drawer. */
  figure: string | null;
  /** The formula it belongs to. */
  formula: Formula | null;
  /** The figure belongs to an earlier, good state of the formula. */
  stale: boolean;
  onClose: () => void;
}

/** How a figure came about, with this formula's numbers in it. */
export function WorkingDrawer({ figure, formula, stale, onClose }: WorkingDrawerProps) {
  const { data, error } = useQuery({
    queryKey: ['working', figure, formula],
    queryFn: () =>
      answered(
        api.POST('/api/compute/working', { body: formula as Formula, params: { query: { figure: figure ?? '' } } }),
      ),
    enabled: figure !== null && formula !== null,
    placeholderData: (previous) => previous,
  });
  return (
    <Drawer
      opened={figure !== null}
      onClose={onClose}
      position="right"
      size={460}
      title={<Text fw={700}>How this came about</Text>}
      closeButtonProps={{ 'aria-label': 'Close the working' }}
      overlayProps={{ backgroundOpacity: 0.15 }}
    >
      {error !== null && <Text c="red">{error.message}</Text>}
      {data === undefined ? error === null && <Loader size="sm" /> : <WorkingSheet working={data} stale={stale} />}
    </Drawer>
  );
}

function WorkingSheet({ working, stale }: { working: Working; stale: boolean }) {
  const total = working.terms.reduce((sum, term) => sum + term.value, 0);
  return (
    <div data-testid="working">
      <h2>{working.name}</h2>
      <div className={classes.figure}>
        {formatNumber(working.value, 2)}
        <small>{working.unit}</small>
      </div>
      {stale && <Text size="sm">From the last good reckoning, not from what is on screen now.</Text>}
      <div className={classes.rule}>{working.rule}</div>
      <div className={classes.numbers}>
        {working.substituted} = {formatNumber(working.value, 2)}
      </div>
      {working.terms.length > 0 && (
        <table className={classes.terms}>
          <tbody>
            {working.terms.map((term) => (
              <tr key={term.label}>
                <th scope="row">{term.label}</th>
                <td>{term.expression}</td>
                <td>{formatNumber(term.value, 2)}</td>
              </tr>
            ))}
          </tbody>
          <tfoot>
            <tr>
              <th scope="row">Together</th>
              <td>{working.terms_unit}</td>
              <td>{formatNumber(total, 2)}</td>
            </tr>
          </tfoot>
        </table>
      )}
      {working.assumes.length > 0 && (
        <div className={classes.section}>
          <h3>It assumes</h3>
          <ul>
            {working.assumes.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </div>
      )}
      <div className={classes.section}>
        <h3>How sure it is</h3>
        <Text size="sm">{working.certainty}</Text>
      </div>
      {working.sources.length > 0 && (
        <div className={classes.section}>
          <h3>Sources</h3>
          <ul>
            {working.sources.map((source) => (
              <li key={source.id}>{source.title}</li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}
