import { SegmentedControl } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import type { DryingForecast } from '../api/types';
import { changeWorkshop } from '../api/workshop';
import { useTellFailure } from '../app/showFailure';
import { shortDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import { LearningSwitch } from '../trials/LearningSwitch';
import classes from './Cure.module.css';
import { useCuring } from './useCure';

const HEIGHT = 250;
const LEFT = 44;
const RIGHT = 10;
const TOP = 14;
const BOTTOM = 28;
const DAY_MS = 86_400_000;

/** How the bars dry: what was weighed, the curve with its range, and when they are ready. */
export function Drying() {
  const { view } = useCuring();
  const weights = useWeights();
  const { drying, state } = view;
  if (drying === null || state.cut_at === null) {
    return (
      <Panel title="Drying">
        <p className="muted">Weigh two to four marked bars: from their weights follows when the batch is dry.</p>
      </Panel>
    );
  }
  const { ready_from: from, ready_to: to, ready_at: at } = view;
  return (
    <Panel title="Drying" aside={drying.weighings === 0 ? 'by the size of a bar alone; weigh bars to correct it' : `${drying.bars} marked bars, ${drying.weighings} weighings`}>
      <p className={classes.lead} data-testid="ready-range">
        {at !== null && from !== null && to !== null && (
          <>
            {new Date(to) < new Date(view.now) ? 'Dry since about ' : 'Ready about '}
            <b>{shortDate(at)}</b>, nine times in ten {shortDate(from)} to {shortDate(to)}: a week then takes less than {formatNumber(drying.limit_percent, 1, 0)} %.{' '}
          </>
        )}
        {view.ready_by === 'weeks' && at !== null && (
          <>
            Ready by the usual weeks: <b>{shortDate(at)}</b>.{' '}
          </>
        )}
        {view.ready_by === 'weight' && view.ready_by_weeks !== null && <>By the usual weeks: {shortDate(view.ready_by_weeks)}.</>}
        {view.best_from !== null && <> At its best from {shortDate(view.best_from)}.</>}
      </p>
      <ReadyBy />
      <Curve drying={drying} cutAt={state.cut_at} />
      <dl className={classes.facts}>
        <div>
          <dt>The week to come takes</dt>
          <dd>{formatNumber(drying.weekly_loss_percent, 1)} %</dd>
        </div>
        <div>
          <dt>A bar once dry</dt>
          <dd>{weights.tell(drying.end_g)}</dd>
        </div>
        <div>
          <dt>95 % weigh at least</dt>
          <dd data-testid="at-least">{weights.tell(drying.at_least_g)}</dd>
        </div>
      </dl>
      <Taught />
      {drying.doubtful.length > 0 && (
        <p className={classes.watch}>△ Entry {drying.doubtful.join(', ')} fits no curve: probably a slip. It hardly counts; strike it in the record if it was one.</p>
      )}
    </Panel>
  );
}

/** Two schools: ready by what bars weigh, or by the usual weeks. */
function ReadyBy() {
  const { view } = useCuring();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const change = useMutation({
    scope: { id: 'workshop' },
    mutationFn: (by: 'weight' | 'weeks') => changeWorkshop(client, { ready_by: by }, { ready_by: by === 'weight' ? 'weeks' : 'weight' }),
    onError: tellFailure,
    onSettled: () => client.invalidateQueries({ queryKey: ['cure'] }),
  });
  return (
    <div className={classes.readyBy}>
      <span id="ready-by">Ready counts by</span>
      <SegmentedControl aria-labelledby="ready-by" value={change.isPending ? change.variables : view.ready_by} onChange={(by) => change.mutate(by as 'weight' | 'weeks')} data={[{ value: 'weight', label: 'weight' }, { value: 'weeks', label: 'the usual weeks' }]} data-testid="ready-by" />
    </div>
  );
}

/** What the workshop's other batches taught, and whether the forecast goes by it. */
function Taught() {
  const { view } = useCuring();
  if (view.taught.words.length === 0) return null;
  return (
    <div className={classes.taught} data-testid="taught">
      <span>
        <Sentence>{view.taught.words}</Sentence>
      </span>
      <LearningSwitch label="Go by them" isUsed={view.taught.is_used} />
    </div>
  );
}

function Curve({ drying, cutAt }: { drying: DryingForecast; cutAt: string }) {
  const { view } = useCuring();
  const { ref, width } = useElementSize();
  const cut = new Date(cutAt).getTime();
  const dayOf = (at: string) => (new Date(at).getTime() - cut) / DAY_MS;
  const last = drying.curve.at(-1)?.day ?? 1;
  const low = Math.min(...drying.curve.map((point) => point.low_percent)) - 1;
  const bottom = Math.floor(low / 2) * 2;
  const top = 100;
  const x = (day: number) => LEFT + (Math.max(day, 0) / last) * Math.max(width - LEFT - RIGHT, 1);
  const y = (percent: number) => TOP + ((top - percent) / (top - bottom)) * (HEIGHT - TOP - BOTTOM);
  const clamp = (percent: number) => Math.min(top, Math.max(bottom, percent));
  const path = (of: (point: DryingForecast['curve'][number]) => number, points = drying.curve) => points.map((point, i) => `${i === 0 ? 'M' : 'L'}${x(point.day).toFixed(1)} ${y(clamp(of(point))).toFixed(1)}`).join(' ');
  const spread = `${path((point) => point.high_percent)} ${path((point) => point.low_percent, [...drying.curve].reverse()).replace('M', 'L')} Z`;
  const today = dayOf(view.now);
  const grid = Array.from({ length: Math.floor((top - bottom) / 2) + 1 }, (_, i) => top - 2 * i);
  const ticks = Array.from({ length: 5 }, (_, i) => (last * i) / 4);
  const first = new Map<string, number>();
  const { from, to } = { from: view.ready_from, to: view.ready_to };
  return (
    <div ref={ref} className={classes.curve}>
      <svg width={width} height={HEIGHT} role="img" aria-label={`Weight of a mean bar from 100 % at cutting to about ${formatNumber((100 * drying.end_g) / drying.start_g, 0)} % once dry`}>
        {grid.map((percent) => (
          <g key={percent}>
            <line className={classes.grid} x1={LEFT} x2={width - RIGHT} y1={y(percent)} y2={y(percent)} />
            <text className={classes.tick} x={LEFT - 6} y={y(percent) + 4} textAnchor="end">
              {percent}
              {percent === top ? ' %' : ''}
            </text>
          </g>
        ))}
        {from !== null && to !== null && (
          <>
            <rect className={classes.ready} x={x(dayOf(from))} width={Math.max(x(Math.min(dayOf(to), last)) - x(dayOf(from)), 2)} y={TOP} height={HEIGHT - TOP - BOTTOM} />
            <text className={classes.readyWord} x={x(dayOf(from)) + 5} y={TOP + 14}>
              ready
            </text>
          </>
        )}
        <path className={classes.spread} d={spread} />
        <path className={classes.line} d={path((point) => point.percent)} />
        {view.state.weighings.map((one) => {
          // Each bar is drawn as a share of what it weighed first, brought to the curve of that day.
          if (!first.has(one.mark)) first.set(one.mark, one.weight_g / fractionOn(drying, one.day));
          return <circle key={one.seq} className={classes.weighed} data-doubtful={drying.doubtful.includes(one.seq)} cx={x(one.day)} cy={y(clamp((100 * one.weight_g) / (first.get(one.mark) ?? 1)))} r="4" />;
        })}
        {today <= last && (
          <>
            <line className={classes.today} x1={x(today)} x2={x(today)} y1={TOP} y2={HEIGHT - BOTTOM} />
            <text className={classes.todayWord} x={x(today) + (x(today) > width - 110 ? -5 : 5)} textAnchor={x(today) > width - 110 ? 'end' : 'start'} y={HEIGHT - BOTTOM - 6}>
              today, {formatNumber(today, 0)} days
            </text>
          </>
        )}
        {ticks.map((day, i) => (
          <text key={day} className={classes.tick} x={x(day)} y={HEIGHT - 8} textAnchor={i === 0 ? 'start' : i === 4 ? 'end' : 'middle'}>
            {shortDate(cut + day * DAY_MS)}
          </text>
        ))}
      </svg>
    </div>
  );
}

/** What a mean bar weighs on a day, of its weight at cutting. */
function fractionOn(drying: DryingForecast, day: number): number {
  const end = drying.end_g / drying.start_g;
  return end + (1 - end) * Math.exp(-day / drying.drying_days);
}
