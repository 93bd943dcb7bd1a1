import { useRef } from 'react';

import { formatNumber } from '../quantity';
import { useSlide } from '../useSlide';
import classes from './RangeEdges.module.css';

export type Edge = 'minimum' | 'maximum';

interface RangeEdgesProps {
  name: string;
  /** Null is an open edge; it is drawn at the end of the axis. */
  minimum: number | null;
  maximum: number | null;
  axisMinimum: number;
  axisMaximum: number;
  /** How far along the axis so many points are, in percent of it. */
  percent: (points: number) => number;
  top: number;
  height: number;
  /** Only the range itself is drawn. */
  isBare?: boolean;
  /** Without it the edges are only drawn. */
  onChange?: ((edge: Edge, points: number) => void) | undefined;
  /** A drag or a row of key presses is over. */
  onSettled?: (() => void) | undefined;
}

/** The wanted target range of a quality scale, whose edges can be dragged, or moved with the arrow keys. */
export function RangeEdges(props: RangeEdgesProps) {
  const { name, minimum, maximum, axisMinimum: low, axisMaximum: high, percent, top, height, isBare = false, onChange, onSettled } = props;
  const from = minimum ?? low;
  const to = maximum ?? high;
  const isOpen = minimum === null && maximum === null;
  const x = (points: number) => `${percent(points)}%`;
  const move = (edge: Edge, points: number) => {
    const locked = Math.min(high, Math.max(low, Math.round(points)));
    onChange?.(edge, edge === 'minimum' ? Math.min(locked, to) : Math.max(locked, from));
  };

  return (
    <>
      {!isOpen && from <= to && (
        <rect className={classes.targetRange} x={x(from)} width={`${percent(to) - percent(from)}%`} y={top} height={height} />
      )}
      {!isBare && (['minimum', 'maximum'] as const).map((edge) => {
        const at = edge === 'minimum' ? from : to;
        const isSet = (edge === 'minimum' ? minimum : maximum) !== null;
        return (
          <g key={edge}>
            <line
              className={isSet ? classes.edge : classes.openEdge}
              x1={x(at)}
              x2={x(at)}
              y1={top - 1}
              y2={top + height + 1}
            />
            {onChange && (
              <Grip
                name={`${name}, ${edge === 'minimum' ? 'lower' : 'upper'} edge of the wanted target range`}
                edge={edge}
                isSet={isSet}
                at={at}
                axisMinimum={low}
                axisMaximum={high}
                x={x(at)}
                y={top - 4}
                height={height + 8}
                onMove={(points) => move(edge, points)}
                onSettled={onSettled}
              />
            )}
          </g>
        );
      })}
    </>
  );
}

interface GripProps extends Pick<RangeEdgesProps, 'axisMinimum' | 'axisMaximum' | 'height' | 'onSettled'> {
  name: string;
  edge: Edge;
  isSet: boolean;
  at: number;
  x: string;
  y: number;
  onMove: (points: number) => void;
}

function Grip({ name, edge, isSet, at, axisMinimum: low, axisMaximum: high, x, y, height, onMove, onSettled }: GripProps) {
  /** What it stood at when it was taken, and how many points a pixel is. */
  const taken = useRef({ at, pointsPerPx: 0 });
  const grip = useRef<SVGRectElement>(null);
  const { onPointerDown, ...slide } = useSlide({
    onStart: () => {
      const width = grip.current?.ownerSVGElement?.getBoundingClientRect().width ?? 0;
      taken.current = { at, pointsPerPx: width === 0 ? 0 : (high - low) / width };
    },
    onDrag: (moved) => onMove(taken.current.at + moved * taken.current.pointsPerPx),
    onStep: (right, down, isLarge) => onMove(at + (right - down) * (isLarge ? 5 : 1)),
    onEnd: onSettled,
  });
  return (
    <rect
      ref={grip}
      className={edge === 'minimum' ? classes.lowerGrip : classes.upperGrip}
      role="slider"
      tabIndex={0}
      aria-label={name}
      aria-valuemin={low}
      aria-valuemax={high}
      aria-valuenow={at}
      aria-valuetext={isSet ? `${formatNumber(at, 1, 0)} points` : 'open'}
      data-edge={edge}
      x={x}
      width="16"
      y={y}
      height={height}
      onBlur={onSettled}
      {...slide}
      onPointerDown={(event) => {
        event.currentTarget.focus();
        onPointerDown?.(event);
      }}
    />
  );
}
