import { useElementSize } from '@mantine/hooks';

import { useReference } from '../api/queries';
import type { Comparison } from '../api/types';
import { Panel } from '../design/Panel';
import classes from './Compare.module.css';

const MIDDLE = 15;
/** One shape for each column, so that colour is not needed to tell them apart. */
const SHAPES = [
  'M0 -6 a6 6 0 1 0 0.01 0 Z',
  'M0 -7 L7 0 L0 7 L-7 0 Z',
  'M-6 -6 H6 V6 H-6 Z',
  'M0 -7 L7 6 H-7 Z',
  'M0 7 L7 -6 H-7 Z',
  'M-2 -7 H2 V-2 H7 V2 H2 V7 H-2 V2 H-7 V-2 H-2 Z',
];

/** The quality scales of all columns on one line a quality, each column with a shape of its own. */
export function Overlay({ columns }: { columns: Comparison['columns'] }) {
  const { qualities } = useReference();
  const { ref, width } = useElementSize();
  return (
    <Panel title="Quality scales, overlaid" aside="target ranges of the first">
      <ul className={classes.legend}>
        {columns.map((column, index) => (
          <li key={column.label + String(index)}>
            <svg viewBox="-8 -8 16 16" width="14" height="14" aria-hidden>
              <path className={index === 0 ? classes.filled : classes.hollow} d={SHAPES[index]} />
            </svg>
            {column.label}
          </li>
        ))}
      </ul>
      <div ref={ref}>
        {qualities.map((quality, at) => {
          const { axis_minimum: low, axis_maximum: high } = quality;
          const room = Math.max(width - 112, 1);
          const x = (points: number) => ((Math.min(high, Math.max(low, points)) - low) * room) / (high - low);
          const targetRange = columns[0]?.result.qualities[at]?.target_range;
          const words = columns.map((column) => `${column.label} ${column.result.qualities[at]?.points.toFixed(1)}`);
          return (
            <div key={quality.id} className={classes.overlay}>
              <span>{quality.name}</span>
              <svg viewBox={`-8 0 ${room + 16} 30`} role="img" aria-label={`${quality.name}: ${words.join(', ')}`}>
                <line className={classes.axis} x1="0" x2={room} y1={MIDDLE} y2={MIDDLE} />
                {targetRange && (
                  <rect
                    className={classes.targetRange}
                    x={x(targetRange.minimum)}
                    width={x(targetRange.maximum) - x(targetRange.minimum)}
                    y="5"
                    height="20"
                  />
                )}
                {columns.map((column, index) => (
                  <path
                    key={column.label + String(index)}
                    className={index === 0 ? classes.filled : classes.hollow}
                    transform={`translate(${x(column.result.qualities[at]?.points ?? 0)} ${MIDDLE})`}
                    d={SHAPES[index]}
                  />
                ))}
              </svg>
            </div>
          );
        })}
      </div>
    </Panel>
  );
}
