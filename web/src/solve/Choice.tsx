import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { useOilsAndMaterials } from '../api/queries';
import type { Formula, FrontPoint, SolveQuestion } from '../api/types';
import { formatChance, formatNumber, formatShare } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import classes from './Choice.module.css';

type Axis = 'price_per_kg' | 'palm_percent' | 'changed_percent';

const AXES: { value: Axis; label: string; unit: string }[] = [
  { value: 'changed_percent', label: 'points changed', unit: 'points' },
  { value: 'price_per_kg', label: 'price', unit: 'per kg' },
  { value: 'palm_percent', label: 'palm', unit: '% of oils' },
];
const WIDTH = 340;
const HEIGHT = 150;
const LEFT = 34;
const BOTTOM = 24;

interface ChoiceProps {
  question: SolveQuestion;
  picked: Formula | null;
  onPick: (formula: Formula) => void;
}

/** What more money, more palm or more change would buy: each point a proven blend, touch one to see it. */
export function Choice({ question, picked, onPick }: ChoiceProps) {
  const hasBlend = question.formula.blend.lines.length > 0;
  const [axis, setAxis] = useState<Axis>(hasBlend ? 'changed_percent' : 'price_per_kg');
  const oils = useOilsAndMaterials();
  const { data: front, error, isFetching } = useQuery({
    queryKey: ['front', question, axis],
    queryFn: () => answered(api.POST('/api/solve-front', { params: { query: { axis } }, body: question })),
    enabled: question.targets.length > 0,
    placeholderData: (previous) => previous,
    retry: false,
  });
  const name = (id: string) => oils.find((oil) => oil.id === id)?.name ?? id;
  const blendOf = (formula: Formula) =>
    formula.blend.lines.map((line) => `${name(line.oil)} ${formatShare(line.value ?? 0).replace('.0', '')}`).join(' · ');
  const unit = AXES.find((one) => one.value === axis)?.unit ?? '';
  const points = front?.axis === axis ? front.points : [];
  const shown = points.find((point) => point.formula === picked) ?? null;
  return (
    <div className={classes.choice} data-testid="choice" data-busy={isFetching}>
      <SelectField showLabel label="Along" value={axis} options={AXES} onChange={setAxis} testId="choice-axis" />
      {error !== null && <p className={classes.said}>{error.message}</p>}
      {points.length > 0 && <Picture points={points} unit={unit} picked={picked} onPick={onPick} blendOf={blendOf} />}
      {points.length === 1 && <p className={classes.said}>There is nothing to choose here: the best blend already has the least.</p>}
      {shown && (
        <p className={classes.said} data-testid="choice-shown">
          <b>{blendOf(shown.formula)}</b>: {formatNumber(shown.value, 2, 0)} {unit},{' '}
          {shown.miss < 0.005 ? 'everything met' : `misses ${formatNumber(shown.miss, 1)} points`},{' '}
          {formatChance(shown.chance_in_range_percent)} chance to stay in range
        </p>
      )}
      {front?.more.map((more) => (
        <p key={more.what} className={classes.said}>
          <button type="button" className={classes.more} onClick={() => onPick(more.formula)}>
            {more.what[0]?.toUpperCase()}
            {more.what.slice(1)}
          </button>{' '}
          {more.miss_before - more.miss_after >= 0.05
            ? `misses ${formatNumber(more.miss_after, 1)} points instead of ${formatNumber(more.miss_before, 1)}`
            : `stays in range with ${formatNumber(more.chance_after_percent, 0)} % instead of ${formatNumber(more.chance_before_percent, 0)} %`}
          : {blendOf(more.formula)}
        </p>
      ))}
    </div>
  );
}

interface PictureProps {
  points: FrontPoint[];
  unit: string;
  picked: Formula | null;
  onPick: (formula: Formula) => void;
  blendOf: (formula: Formula) => string;
}

function Picture({ points, unit, picked, onPick, blendOf }: PictureProps) {
  const values = points.map((point) => point.value);
  const [least, most] = [Math.min(...values), Math.max(...values)];
  const x = (value: number) => LEFT + 12 + ((value - least) / Math.max(most - least, 1e-9)) * (WIDTH - LEFT - 30);
  const y = (percent: number) => 10 + ((100 - percent) / 100) * (HEIGHT - BOTTOM - 14);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className={classes.picture} role="group" aria-label="Blends to choose from">
      {[0, 50, 100].map((percent) => (
        <g key={percent}>
          <line className={classes.grid} x1={LEFT} x2={WIDTH - 6} y1={y(percent)} y2={y(percent)} />
          <text className={classes.tick} x={LEFT - 4} y={y(percent) + 4} textAnchor="end">
            {percent}
          </text>
        </g>
      ))}
      <polyline className={classes.line} points={points.map((point) => `${x(point.value)},${y(point.chance_in_range_percent)}`).join(' ')} />
      {points.map((point) => (
        <circle
          key={point.value}
          className={classes.point}
          data-met={point.miss < 0.005}
          data-picked={point.formula === picked}
          cx={x(point.value)}
          cy={y(point.chance_in_range_percent)}
          r={point.formula === picked ? 9 : 7}
          tabIndex={0}
          role="button"
          aria-label={`${formatNumber(point.value, 2, 0)} ${unit}: ${blendOf(point.formula)}`}
          onClick={() => onPick(point.formula)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' || event.key === ' ') onPick(point.formula);
          }}
        />
      ))}
      <text className={classes.tick} x={LEFT + 8} y={HEIGHT - 6}>
        {formatNumber(least, 2, 0)} {unit}
      </text>
      <text className={classes.tick} x={WIDTH - 8} y={HEIGHT - 6} textAnchor="end">
        {formatNumber(most, 2, 0)} {unit}
      </text>
      <text className={classes.tick} x={LEFT + 6} y={y(100) + 16}>
        % chance to stay in range
      </text>
    </svg>
  );
}
