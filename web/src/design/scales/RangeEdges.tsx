import type { KeyboardEvent, PointerEvent } from 'react';

import { formatNumber } from '../quantity';
import classes from './RangeEdges.module.css';

export type Edge = 'minimum' | 'maximum';

interface RangeEdgesProps {
  name: string;
  /** Null is an open edge; it is drawn at the end of the axis. */
  minimum: number | null;
  maximum: number | null;
  axisMinimum: number;
  axisMaximum: number;
  /** Width of the axis, px. */
  width: number;
  top: number;
  height: number;
  /** Without it the edges are only drawn. */
  onChange?: (edge: Edge, points: number) => void;
  /** A drag or a row of key presses is over. */
  onSettled?: () => void;
}

/** The wanted target range of a quality scale, whose edges can be dragged, or moved with the arrow keys. */
export function RangeEdges(props: RangeEdgesProps) {
  const { name, minimum, maximum, axisMinimum: low, axisMaximum: high, width, top, height, onChange, onSettled } = props;
  const from = minimum ?? low;
  const to = maximum ?? high;
  const isOpen = minimum === null && maximum === null;
  const x = (points: number) => ((Math.min(high, Math.max(low, points)) - low) * width) / (high - low);
  const move = (edge: Edge, points: number) => {
    const locked = Math.min(high, Math.max(low, Math.round(points)));
    onChange?.(edge, edge === 'minimum' ? Math.min(locked, to) : Math.max(locked, from));
  };

  const drag = (edge: Edge) => (event: PointerEvent<SVGRectElement>) => {
    event.preventDefault();
    event.currentTarget.focus();
    const svg = event.currentTarget.ownerSVGElement;
    const scale = svg?.getScreenCTM()?.inverse();
    if (!scale) return;
    const follow = (now: globalThis.PointerEvent) => {
      const at = new DOMPoint(now.clientX, now.clientY).matrixTransform(scale).x;
      move(edge, low + (at * (high - low)) / width);
    };
    const end = () => {
      window.removeEventListener('pointermove', follow);
      window.removeEventListener('pointerup', end);
      onSettled?.();
    };
    window.addEventListener('pointermove', follow);
    window.addEventListener('pointerup', end);
  };
  const step = (edge: Edge) => (event: KeyboardEvent) => {
    const sign = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
    if (sign === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    move(edge, (edge === 'minimum' ? from : to) + sign * (event.shiftKey ? 5 : 1));
  };

  return (
    <>
      {!isOpen && from <= to && (
        <rect className={classes.targetRange} x={x(from)} width={x(to) - x(from)} y={top} height={height} />
      )}
      {(['minimum', 'maximum'] as const).map((edge) => {
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
              <rect
                className={classes.grip}
                role="slider"
                tabIndex={0}
                aria-label={`${name}, ${edge === 'minimum' ? 'lower' : 'upper'} edge of the wanted target range`}
                aria-valuemin={low}
                aria-valuemax={high}
                aria-valuenow={at}
                aria-valuetext={isSet ? `${formatNumber(at, 1, 0)} points` : 'open'}
                data-edge={edge}
                x={x(at) - (edge === 'minimum' ? 12 : 4)}
                width="16"
                y={top - 4}
                height={height + 8}
                onPointerDown={drag(edge)}
                onKeyDown={step(edge)}
                onBlur={onSettled}
              />
            )}
          </g>
        );
      })}
    </>
  );
}
