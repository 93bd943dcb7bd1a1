import { useDebouncedValue } from '@mantine/hooks';
import { keepPreviousData, useQuery } from '@tanstack/react-query';

import { answered, api } from '../../api/client';
import { formatNumber } from '../../design/quantity';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

const QUIET_MS = 300;

/** The one move between two oils that brings the bar nearest to its target ranges, as a button; nothing when none helps. What stands
    below it keeps its place meanwhile: `height` px are kept free until a move is known, and after a change the last one stays, out of
    use. */
export function BestMove({ height }: { height: number }) {
  const { draft } = useBench();
  const [formula] = useDebouncedValue(draft.formula, QUIET_MS);
  const { data: move, isPending, isPlaceholderData } = useQuery({
    queryKey: ['best-move', formula],
    queryFn: () => answered(api.POST('/api/best-move', { body: formula })),
    enabled: formula.blend.lines.some((line) => (line.value ?? 0) > 0),
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (isPending) return <div style={{ height }} />;
  if (move == null) return null;
  const isOfBefore = isPlaceholderData || formula !== draft.formula;
  return (
    <button
      type="button"
      className={classes.bestMove}
      aria-disabled={isOfBefore}
      onClick={() => {
        if (!isOfBefore) draft.edit((now) => ({ ...now, blend: move.blend }));
      }}
      data-testid="best-move"
    >
      Move <b>{formatNumber(move.percent, 0)} %</b> from {move.give_name.toLowerCase()} to {move.is_new ? 'new ' : ''}
      <b>{move.take_name.toLowerCase()}</b>
      {' → '}
      {move.reached.map((one) => `${one.name.toLowerCase()} ${formatNumber(one.points, 1)}`).join(', ')}
    </button>
  );
}
