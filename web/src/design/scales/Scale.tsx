import { useElementSize } from '@mantine/hooks';
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

interface ScaleProps extends Omit<SVGProps<SVGSVGElement>, 'height'> {
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

/** Room for marks at either end. */
const INSET = 8;

/** One axis from low to high with what stands on it: every quality scale, strip and range is drawn by this. */
export function Scale({ low, high, marks = [], range, edges, hasEnds = false, uncertainty, yours, yoursId, capsule, line, height = 30, middle = height / 2, children, className = '', style, ...svg }: ScaleProps) {
  const { ref, width: measured } = useElementSize();
  const width = Math.max(0, measured - 2 * INSET);
  const x = (value: number) => ((Math.min(high, Math.max(low, value)) - low) * width) / (high - low);
  return (
    <div ref={ref} className={classes.room}>
      <svg {...svg} className={`${classes.drawing} ${className}`} viewBox={`${-INSET} 0 ${Math.max(1, measured)} ${height}`} style={{ ...style, height }}>
        <line className={classes.axis} x1="0" x2={width} y1={middle} y2={middle} />
        {capsule && <rect className={capsule.isAlarming ? classes.crossing : classes.calm} x={x(capsule.low)} width={Math.max(x(capsule.high) - x(capsule.low), 3)} y={middle - 6} height="12" rx="6" />}
        {(range ?? edges) && (
          <RangeEdges
            name={edges?.name ?? ''}
            minimum={range?.minimum ?? null}
            maximum={range?.maximum ?? null}
            axisMinimum={low}
            axisMaximum={high}
            width={width}
            top={middle - 10}
            height={20}
            isBare={edges === undefined}
            onChange={edges?.onChange}
            onSettled={edges?.onSettled}
          />
        )}
        {uncertainty && <path className={classes.uncertainty} d={`M${x(uncertainty.low)} ${middle - 4} v8 m0 -4 H${x(uncertainty.high)} m0 -4 v8`} />}
        {hasEnds && range?.minimum != null && range.minimum > low && (
          <text className={classes.end} x={x(range.minimum) + 2} y="11" textAnchor="end">
            {formatNumber(range.minimum, 1, 0)}
          </text>
        )}
        {hasEnds && range?.maximum != null && range.maximum < high && (
          <text className={classes.end} x={x(range.maximum) - 2} y="11">
            {formatNumber(range.maximum, 1, 0)}
          </text>
        )}
        {yours && <path className={classes.yours} d={`M${x(yours.low)} ${height - 2} H${x(yours.high)} M${x(yours.points)} ${height - 6} v5`} data-testid={yoursId} />}
        {marks.map((mark, i) => (
          <path key={i} className={classes[mark.tone]} transform={`translate(${x(mark.at)} ${mark.tone === 'reference' ? middle + 13 : middle})${mark.tone === 'reference' ? ' scale(0.65)' : ''}`} d={SHAPES[mark.shape]} />
        ))}
        {line && <line className={classes[line.tone]} x1={x(line.at)} x2={x(line.at)} y1="2" y2={height} />}
        {line?.text !== undefined && (
          <text className={classes[line.tone]} x={x(line.at) - 5} y={middle + 4} textAnchor="end">
            {line.text}
          </text>
        )}
        {children}
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
