import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';

/** What is in the bowl, against the plan, and the expected superfat it comes to. */
export function CompositionPanel() {
  const { run } = useMaking();
  const weights = useWeights();
  const items = run.prepared.steps.flatMap((step) => (step.weigh ? [step.weigh] : []));
  const inBowl = items.filter((item) => run.state.captured_g[item.item] !== undefined);
  const raised = items.filter((item) => Math.abs((run.state.targets_g[item.item] ?? item.target_g) - item.target_g) > 1e-6);
  const lye = run.actual.result?.lye;
  return (
    <section className={classes.panel} aria-label="In the bowl" data-testid="in-the-bowl">
      <header>
        <h2>In the bowl</h2>
        <span className="muted">{weights.unit}, against its target</span>
      </header>
      {inBowl.length === 0 && <p className="muted">Nothing yet.</p>}
      <table className={classes.weights}>
        <tbody>
          {inBowl.map((item) => {
            const grams = run.state.captured_g[item.item] ?? 0;
            const off = grams - (run.state.targets_g[item.item] ?? item.target_g);
            return (
              <tr key={item.item} data-off={Math.abs(off) > item.tolerance_g + 1e-9}>
                <td>{item.name}</td>
                <td>{weights.format(grams, item.decimals)}</td>
                <td>{weights.change(off, item.decimals)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {raised.length > 0 && <p className="muted">Targets have changed since the plan: what was accepted is one now, and the rest follows it.</p>}
      {lye && <Superfat low={lye.superfat_interval.low_percent} middle={lye.superfat_interval.middle_percent} high={lye.superfat_interval.high_percent} />}
      {!lye && (
        <p className={classes.problem} role="alert">
          <Sentence>{run.actual.problems[0]?.message}</Sentence> <Sentence>{run.actual.problems[0]?.remedy}</Sentence>
        </p>
      )}
    </section>
  );
}

function Superfat({ low, middle, high }: { low: number; middle: number; high: number }) {
  const from = Math.min(-1, low - 1);
  const to = Math.max(9, high + 1);
  const x = (percent: number) => (240 * (percent - from)) / (to - from);
  const crosses = low < 0;
  return (
    <div className={classes.superfat} data-crosses={crosses} data-testid="made-superfat">
      <p>
        Expected superfat <b>{formatNumber(middle, 1)} %</b>
        <span className="muted">
          {' '}
          {formatNumber(low, 1)} to {formatNumber(high, 1)}
        </span>
      </p>
      <svg viewBox="0 0 240 24" aria-hidden>
        <line x1="0" x2="240" y1="12" y2="12" />
        <rect x={x(low)} width={Math.max(x(high) - x(low), 3)} y="6" height="12" rx="6" />
        <circle cx={x(middle)} cy="12" r="4.5" />
        <line className={classes.zeroLine} x1={x(0)} x2={x(0)} y1="2" y2="22" />
      </svg>
      {crosses && <p>It may be lye-heavy.</p>}
    </div>
  );
}
