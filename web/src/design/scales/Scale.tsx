import type { SVGProps } from 'react';

import { formatNumber } from '../quantity';
import { RangeEdges, type Edge } from './RangeEdges';
import classes from './Scale.module.css';

/** One shape for each of several marks, so that colour is not needed to tell them apart. */
const SHAPES = {
  disc: 'M0 -6 a6 6 0 1 0 0.01 0 Z',
  diamond: 'M0 -7 L7 0 L0 7 L-7 0 Z',
  square: 'M-6 -6 H6 V6 H-6 Z',
  up: 'M0 -7 L7 6 H-7 Z',
  down: 'M0 7 L7 -6 H-7 Z',
  cross: 'M-2 -7 H2 V-2 H7 V2 H2 V7 H-2 V2 H-7 V-2 H-2 Z',
} as const;
export type Shape = keyof typeof SHAPES;
/** Which they are given in, where marks stand beside one another. */
export const IN_ORDER = Object.keys(SHAPES) as Shape[];

/** filled: what it is about. hollow: beside it. watch: out of its range. reference: what it is compared with, below the line. */
export type Tone = 'filled' | 'hollow' | 'watch' | 'reference';

export interface Mark {
  at: number;
  shape: Shape;
  tone: Tone;
}

/** A range drawn with the mark that it is of. */
interface Span {
  low: number;
  high: number;
}

interface ScaleProps extends Omit<SVGProps<SVGSVGElement>, 'height' | 'className' | 'style' | 'children'> {
  low: number;
  high: number;
  marks?: Mark[];
  /** The wanted range, shaded; an open edge is null. */
  range?: { minimum: number | null; maximum: number | null } | null | undefined;
  /** Its edges can be moved. */
  edges?: { name: string; onChange?: ((edge: Edge, points: number) => void) | undefined; onSettled?: (() => void) | undefined };
  /** Write its ends above it. */
  hasEnds?: boolean;
  /** How far it may lie off, as a bar with ends. */
  uncertainty?: Span | undefined;
  /** Where the workshop's own bars put it, below the line. */
  yours?: (Span & { points: number }) | undefined;
  yoursId?: string;
  /** A capsule: where something may lie; alarming when it should not. */
  capsule?: (Span & { isAlarming: boolean }) | undefined;
  /** A line with its number, never to be crossed, or to be compared with. */
  line?: { at: number; tone: 'caustic' | 'plain'; text?: string } | undefined;
  height?: number;
  /** Of the line, from above. */
  middle?: number;
}

/** One axis from low to high with what stands on it: every quality scale, strip and range is drawn by this. All across it is in percent
    of its width, so that it is right at the first drawing and at any width, unmeasured. */
export function Scale({ low, high, marks = [], range, edges, hasEnds = false, uncertainty, yours, yoursId, capsule, line, height = 30, middle = height / 2, ...svg }: ScaleProps) {
  const percent = (value: number) => (100 * (Math.min(high, Math.max(low, value)) - low)) / (high - low);
  const x = (value: number) => `${percent(value)}%`;
  return (
    <div className={classes.room}>
      <svg {...svg} className={classes.drawing} style={{ height }}>
        <line className={classes.axis} x1="0" x2="100%" y1={middle} y2={middle} />
        {capsule && <rect className={capsule.isAlarming ? classes.crossing : classes.calm} x={x(capsule.low)} style={{ width: `max(${percent(capsule.high) - percent(capsule.low)}%, 3px)` }} y={middle - 6} height="12" rx="6" />}
        {(range ?? edges) && (
          <RangeEdges
            name={edges?.name ?? ''}
            minimum={range?.minimum ?? null}
            maximum={range?.maximum ?? null}
            axisMinimum={low}
            axisMaximum={high}
            percent={percent}
            top={middle - 10}
            height={20}
            isBare={edges === undefined}
            onChange={edges?.onChange}
            onSettled={edges?.onSettled}
          />
        )}
        {uncertainty && (
          <g className={classes.uncertainty}>
            <line x1={x(uncertainty.low)} x2={x(uncertainty.high)} y1={middle} y2={middle} />
            <line x1={x(uncertainty.low)} x2={x(uncertainty.low)} y1={middle - 4} y2={middle + 4} />
            <line x1={x(uncertainty.high)} x2={x(uncertainty.high)} y1={middle - 4} y2={middle + 4} />
          </g>
        )}
        {hasEnds && range?.minimum != null && range.minimum > low && (
          <text className={classes.end} x={x(range.minimum)} dx="2" y="11" textAnchor="end">
            {formatNumber(range.minimum, 1, 0)}
          </text>
        )}
        {hasEnds && range?.maximum != null && range.maximum < high && (
          <text className={classes.end} x={x(range.maximum)} dx="-2" y="11">
            {formatNumber(range.maximum, 1, 0)}
          </text>
        )}
        {yours && (
          <g className={classes.yours} data-testid={yoursId}>
            <line x1={x(yours.low)} x2={x(yours.high)} y1={height - 2} y2={height - 2} />
            <line x1={x(yours.points)} x2={x(yours.points)} y1={height - 6} y2={height - 1} />
          </g>
        )}
        {marks.map((mark, i) => (
          <path key={i} className={classes[mark.tone]} style={{ transform: `translate(${x(mark.at)}, ${mark.tone === 'reference' ? middle + 13 : middle}px)${mark.tone === 'reference' ? ' scale(0.65)' : ''}` }} d={SHAPES[mark.shape]} />
        ))}
        {line && <line className={classes[line.tone]} x1={x(line.at)} x2={x(line.at)} y1="2" y2={height} />}
        {line?.text !== undefined && (
          <text className={classes[line.tone]} x={x(line.at)} dx="-5" y={middle + 4} textAnchor="end">
            {line.text}
          </text>
        )}
      </svg>
    </div>
  );
}

/** A mark by itself, for a legend. */
export function MarkShape({ shape, tone }: { shape: Shape; tone: Tone }) {
  return (
    <svg viewBox="-8 -8 16 16" width="14" height="14" aria-hidden>
      <path className={classes[tone]} d={SHAPES[shape]} />
    </svg>
  );
}
