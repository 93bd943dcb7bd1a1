import { useReference } from '../api/queries';
import type { Comparison } from '../api/types';
import { Panel } from '../design/Panel';
import { IN_ORDER, MarkShape, Scale, type Shape } from '../design/scales/Scale';
import classes from './Compare.module.css';

/** The quality scales of all columns on one line a quality, each column with a shape of its own. */
export function Overlay({ columns }: { columns: Comparison['columns'] }) {
  const { qualities } = useReference();
  return (
    <Panel title="Quality scales, overlaid" aside="target ranges of the first">
      <ul className={classes.legend}>
        {columns.map((column, index) => (
          <li key={column.label + String(index)}>
            <MarkShape shape={shapeOf(index)} tone={index === 0 ? 'filled' : 'hollow'} />
            {column.label}
          </li>
        ))}
      </ul>
      <div>
        {qualities.map((quality, at) => {
          const { axis_minimum: low, axis_maximum: high } = quality;
          const targetRange = columns[0]?.result.qualities[at]?.target_range;
          const words = columns.map((column) => `${column.label} ${column.result.qualities[at]?.points.toFixed(1)}`);
          return (
            <div key={quality.id} className={classes.overlay}>
              <span>{quality.name}</span>
              <Scale
                low={low}
                high={high}
                range={targetRange}
                marks={columns.map((column, index) => ({ at: column.result.qualities[at]?.points ?? 0, shape: shapeOf(index), tone: index === 0 ? 'filled' : 'hollow' }))}
                role="img"
                aria-label={`${quality.name}: ${words.join(', ')}`}
              />
            </div>
          );
        })}
      </div>
    </Panel>
  );
}

/** One shape for each column. */
function shapeOf(index: number): Shape {
  return IN_ORDER[index % IN_ORDER.length] ?? 'disc';
}
