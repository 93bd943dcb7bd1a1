import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import type { Formula } from '../api/types';
import { Panel } from '../design/Panel';
import classes from './Swap.module.css';

interface LeversProps {
  before: Formula;
  formula: Formula;
  /** Some lever has been pulled already. */
  pulled: boolean;
  onPull: (formula: Formula | null) => void;
}

/** What helps beside oils; touching one pulls it, and the quality scales and tiles answer. */
export function Levers({ before, formula, pulled, onPull }: LeversProps) {
  const { data: levers = [] } = useQuery({
    queryKey: ['levers', before, formula],
    queryFn: () => answered(api.POST('/api/swap/levers', { body: { before, formula } })),
    placeholderData: (previous) => previous,
  });
  return (
    <Panel title="Levers that are not oils" aside="touch to try">
      <div className={classes.levers}>
        {levers.map((lever) => (
          <button
            key={lever.id}
            type="button"
            className={classes.lever}
            title={lever.reason}
            onClick={() => onPull(lever.formula)}
            data-testid={`lever-${lever.id}`}
          >
            {lever.label}
          </button>
        ))}
        {pulled && (
          <button type="button" className={`${classes.lever} ${classes.undo}`} onClick={() => onPull(null)}>
            Undo all levers
          </button>
        )}
      </div>
    </Panel>
  );
}
