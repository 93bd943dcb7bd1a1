import type { PreparationReport } from '../api/types';
import { Panel } from '../design/Panel';
import { useWeights } from '../design/units';
import classes from './Preparations.module.css';

/** Everything that is weighed, in order. */
export function Weights({ prepared }: { prepared: NonNullable<PreparationReport['prepared']> }) {
  const weights = useWeights();
  const targets = prepared.steps.flatMap((step) => (step.weigh ? [step.weigh] : []));
  return (
    <Panel title="To weigh" aside={weights.tell(prepared.total_g)}>
      <table className={classes.weights} data-testid="weights">
        <tbody>
          {targets.map((target) => (
            <tr key={target.item}>
              <td>{target.name}</td>
              <td>
                {weights.format(target.target_g, target.decimals)} {weights.unit}
              </td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr>
            <td>Together</td>
            <td>
              {weights.format(prepared.total_g)} {weights.unit}
            </td>
          </tr>
        </tfoot>
      </table>
    </Panel>
  );
}
