import { useState, type KeyboardEvent } from 'react';

import { useReference } from '../../api/queries';
import type { Acid, FormulaResult } from '../../api/types';
import { Panel } from '../Panel';
import { formatNumber } from '../quantity';
import { toneOf } from '../tones';
import { useShownResult } from './ResultContext';
import classes from './ChainMap.module.css';

const WIDTH = 360;
const HEIGHT = 250;
const CHAINS = [8, 10, 12, 14, 16, 18, 20, 22];
const LEFT = 84;
const PITCH_X = 37;
const TOP = 36;
const PITCH_Y = 46;
const ROWS = ['saturated', '1 double', 'OH', '2 double', '3 double'];
const RADIUS_PER_ROOT_PERCENT = 3.15;
const SHOWN_FROM_PERCENT = 0.05;

function rowOf(acid: Acid): number {
  if (acid.hydroxyls > 0) return 2;
  return acid.double_bonds < 2 ? acid.double_bonds : acid.double_bonds + 1;
}

function placeOf(acid: Acid): { x: number; y: number } {
  return { x: LEFT + CHAINS.indexOf(acid.carbons) * PITCH_X, y: TOP + rowOf(acid) * PITCH_Y };
}

const radiusOf = (percent: number) => RADIUS_PER_ROOT_PERCENT * Math.sqrt(Math.max(0, percent));

interface ChainMapProps {
  title?: string;
  reference: FormulaResult | null;
  referenceName: string | null;
}

/** Fatty acids on a grid: chain length across, double bonds down, disc area = share, dashed ring = reference. */
export function ChainMap({ title = 'Chain map', reference, referenceName }: ChainMapProps) {
  const { result, isStale, explain } = useShownResult();
  const { acids } = useReference();
  const [focused, setFocused] = useState('C18:1');
  const shares = new Map(result?.acids.map((share) => [share.acid, share.percent]));
  const before = new Map(reference?.acids.map((share) => [share.acid, share.percent]));
  const present = acids.filter(({ id }) => (shares.get(id) ?? 0) >= SHOWN_FROM_PERCENT);
  const stop = present.some(({ id }) => id === focused) ? focused : present[0]?.id;

  const onKeyDown = (event: KeyboardEvent<SVGSVGElement>) => {
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    const at = present.findIndex(({ id }) => id === stop);
    const next = present[(at + step + present.length) % present.length];
    if (next === undefined) return;
    setFocused(next.id);
    event.currentTarget.querySelector<SVGGElement>(`[data-acid="${next.id}"]`)?.focus();
  };

  return (
    <Panel title={title} term="chain_map" aside={referenceName === null ? '% of all fatty acids' : `dashed ring: ${referenceName}`}>
      <svg
        className={`${classes.map} ${isStale ? 'stale' : ''}`}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="group"
        aria-label="Fatty acids of the blend by chain length and double bonds"
        onKeyDown={onKeyDown}
      >
        {CHAINS.map((chain, i) => (
          <g key={chain}>
            <line
              className={classes.grid}
              x1={LEFT + i * PITCH_X}
              x2={LEFT + i * PITCH_X}
              y1={TOP - 14}
              y2={HEIGHT - 24}
            />
            <text className={classes.axis} x={LEFT + i * PITCH_X} y={HEIGHT - 8}>
              C{chain}
            </text>
          </g>
        ))}
        {ROWS.map((row, i) => (
          <g key={row}>
            <line
              className={classes.grid}
              x1={LEFT - 14}
              x2={WIDTH - 4}
              y1={TOP + i * PITCH_Y}
              y2={TOP + i * PITCH_Y}
            />
            <text className={classes.row} x={LEFT - 24} y={TOP + i * PITCH_Y + 4}>
              {row}
            </text>
          </g>
        ))}
        {present.map((acid) => (
          <Disc
            key={acid.id}
            acid={acid}
            percent={shares.get(acid.id) ?? 0}
            change={reference === null ? null : (shares.get(acid.id) ?? 0) - (before.get(acid.id) ?? 0)}
            isStop={acid.id === stop}
            onOpen={() => explain(`acid:${acid.id}`)}
          />
        ))}
        {acids.map((acid) => {
          const percent = before.get(acid.id) ?? 0;
          if (percent < SHOWN_FROM_PERCENT) return null;
          const { x, y } = placeOf(acid);
          return <circle key={acid.id} className={classes.ring} cx={x} cy={y} r={Math.max(2, radiusOf(percent))} />;
        })}
      </svg>
    </Panel>
  );
}

interface DiscProps {
  acid: Acid;
  percent: number;
  change: number | null;
  isStop: boolean;
  onOpen: () => void;
}

function Disc({ acid, percent, change, isStop, onOpen }: DiscProps) {
  const { x, y } = placeOf(acid);
  const radius = Math.max(2.5, radiusOf(percent));
  const text = `${acid.name} ${acid.id}: ${formatNumber(percent, 1)} %`;
  const changed =
    change === null || Math.abs(change) < 0.05 ? '' : `, ${change > 0 ? '+' : ''}${formatNumber(change, 1)}`;
  const isSaturated = rowOf(acid) === 0;
  // Names of neighbouring saturated acids take turns above and below, so that they never meet.
  const above = isSaturated && (acid.carbons / 2) % 2 === 1;
  const named = percent >= 2.5;
  return (
    <>
      <g
        className={classes.disc}
        role="button"
        tabIndex={isStop ? 0 : -1}
        data-acid={acid.id}
        aria-label={`${text}${changed}. Show the explanation.`}
        onClick={onOpen}
        onKeyDown={(event) => {
          if (event.key === 'Enter' || event.key === ' ') {
            event.preventDefault();
            onOpen();
          }
        }}
      >
        <title>{`${text}${changed}\n${acid.does_in_the_bar}`}</title>
        <circle cx={x} cy={y} r={radius} fill={toneOf(acid.group)} />
        <circle cx={x} cy={y} r={Math.max(12, radius)} fill="transparent" />
      </g>
      <g aria-hidden pointerEvents="none">
        {radius >= 9 && (
          <text className={classes.value} x={x} y={y + 4}>
            {formatNumber(percent, 0)}
          </text>
        )}
        {named && isSaturated && (
          <text className={classes.name} x={x} y={above ? y - radius - 4 : y + radius + 11} textAnchor="middle">
            {acid.name}
          </text>
        )}
        {named && !isSaturated && (
          <text
            className={classes.name}
            x={x + 4 + (radius < 12 ? 12 : radius * 0.78)}
            y={y + (radius < 12 ? 4 : radius * 0.78 + 4)}
          >
            {acid.name}
            {radius < 9 && ` ${formatNumber(percent, 0)}`}
          </text>
        )}
      </g>
    </>
  );
}
