import { Loader, Text } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import type { Formula, Explanation, YourBars } from '../api/types';
import { SideSheet } from './Dialog';
import { formatNumber } from './quantity';
import { Sentence } from './Sentence';
import { useWeights } from './units';
import classes from './ExplanationDrawer.module.css';

interface ExplanationDrawerProps {
  /** The quantity to explain; null closes the drawer. */
  quantity: string | null;
  /** The formula it belongs to. */
  formula: Formula | null;
  /** The quantity belongs to an earlier, good state of the formula. */
  stale: boolean;
  /** What the workshop's own bars say of it. */
  yours?: YourBars | undefined;
  onClose: () => void;
}

/** How a quantity came about, with this formula's numbers in it. */
export function ExplanationDrawer({ quantity, formula, stale, yours, onClose }: ExplanationDrawerProps) {
  const { data, error } = useQuery({
    queryKey: ['explanation', quantity, formula],
    queryFn: () =>
      answered(
        api.POST('/api/compute/explanation', { body: formula as Formula, params: { query: { quantity: quantity ?? '' } } }),
      ),
    enabled: quantity !== null && formula !== null,
    placeholderData: (previous) => previous,
  });
  return (
    <SideSheet
      opened={quantity !== null}
      onClose={onClose}
      position="right"
      size={460}
      title={<Text fw={700}>How this came about</Text>}
      closeButtonProps={{ 'aria-label': 'Close the explanation' }}
      overlayProps={{ backgroundOpacity: 0.15 }}
    >
      {error !== null && <Text c="red">{error.message}</Text>}
      {data === undefined ? error === null && <Loader size="sm" /> : <ExplanationSheet explanation={data} stale={stale} />}
      {yours !== undefined && data !== undefined && (
        <div className={classes.section} data-testid="explained-yours">
          <h3>What your bars say</h3>
          <Text size="sm">
            <Sentence>{yours.words}</Sentence> That puts it at {formatNumber(yours.points, 1)}; eight of ten batches lie between {formatNumber(yours.low, 1)} and {formatNumber(yours.high, 1)}.
          </Text>
        </div>
      )}
    </SideSheet>
  );
}

function ExplanationSheet({ explanation, stale }: { explanation: Explanation; stale: boolean }) {
  const weights = useWeights();
  /** A value in its unit; a weight in the maker's. */
  const told = (value: number, unit: string, isWeightTold = true) =>
    unit === 'g' ? `${weights.format(value, 2)}${isWeightTold ? `\u00a0${weights.unit}` : ''}` : formatNumber(value, 2);
  const unitOf = (unit: string) => (unit === 'g' ? weights.unit : unit);
  const total = explanation.terms.reduce((sum, term) => sum + term.value, 0);
  return (
    <div data-testid="explanation">
      <h2>{explanation.name}</h2>
      <div className={classes.quantity}>
        {told(explanation.value, explanation.unit, false)}
        <small>{unitOf(explanation.unit)}</small>
      </div>
      {stale && <Text size="sm">From the last good result, not from what is on screen now.</Text>}
      <div className={classes.rule}><Sentence>{explanation.rule}</Sentence></div>
      <div className={classes.numbers}>
        <Sentence>{explanation.substituted}</Sentence> = {told(explanation.value, explanation.unit)}
      </div>
      {explanation.terms.length > 0 && (
        <table className={classes.terms}>
          <tbody>
            {explanation.terms.map((term) => (
              <tr key={term.label}>
                <th scope="row">{term.label}</th>
                <td><Sentence>{term.expression}</Sentence></td>
                <td>{told(term.value, explanation.terms_unit, false)}</td>
              </tr>
            ))}
          </tbody>
          <tfoot>
            <tr>
              <th scope="row">Together</th>
              <td>{`${unitOf(explanation.terms_unit)} ${explanation.terms_of}`.trim()}</td>
              <td>{told(total, explanation.terms_unit, false)}</td>
            </tr>
          </tfoot>
        </table>
      )}
      {explanation.assumes.length > 0 && (
        <div className={classes.section}>
          <h3>It assumes</h3>
          <ul>
            {explanation.assumes.map((line, i) => (
              <li key={i}><Sentence>{line}</Sentence></li>
            ))}
          </ul>
        </div>
      )}
      <div className={classes.section}>
        <h3>How sure it is</h3>
        <Text size="sm">{explanation.certainty}</Text>
      </div>
      {explanation.sources.length > 0 && (
        <div className={classes.section}>
          <h3>Sources</h3>
          <ul>
            {explanation.sources.map((source) => (
              <li key={source.id}>{source.title}</li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}
