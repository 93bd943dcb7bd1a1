import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../../api/client';
import { formatNumber } from '../../design/quantity';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

const QUIET_MS = 300;

/** The one move between two oils that brings the bar nearest to its target ranges, as a button; nothing when none helps. */
export function BestMove() {
  const { draft } = useBench();
  const [formula] = useDebouncedValue(draft.formula, QUIET_MS);
  const { data: move } = useQuery({
    queryKey: ['best-move', formula],
    queryFn: () => answered(api.POST('/api/best-move', { body: formula })),
    enabled: formula.blend.lines.some((line) => (line.value ?? 0) > 0),
    retry: false,
  });
  if (move == null || formula !== draft.formula) return null;
  return (
    <button
      type="button"
      className={classes.bestMove}
      onClick={() => draft.edit((now) => ({ ...now, blend: move.blend }))}
      data-testid="best-move"
    >
      Move <b>{formatNumber(move.percent, 0)} %</b> from {move.give_name.toLowerCase()} to {move.is_new ? 'new ' : ''}
      <b>{move.take_name.toLowerCase()}</b>
      {' → '}
      {move.reached.map((one) => `${one.name.toLowerCase()} ${formatNumber(one.points, 1)}`).join(', ')}
    </button>
  );
}
