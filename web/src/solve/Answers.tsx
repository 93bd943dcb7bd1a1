import type { FormulaResult, Give, Solution, SolveState } from '../api/types';
import choice from '../design/choice.module.css';
import { Panel } from '../design/Panel';
import { formatChance, formatNumber, formatShare } from '../design/quantity';
import classes from './Solve.module.css';

interface AnswersProps {
  state: SolveState | null;
  /** The best blend so far, calculated, while the search goes on. */
  soFar: FormulaResult | null;
  chosen: number;
  onChoose: (index: number) => void;
  onCancel: () => void;
  /** Lift a limit of good sense by name. */
  onLift: (name: string) => void;
  /** Take a wider range for a target. */
  onAccept: (give: Give) => void;
}

const STATUS: Record<Solution['status'], string> = {
  proven: 'best, proven',
  gap: 'best found in time',
  stopped: 'stopped',
  impossible: 'impossible',
};

/** The blends that answer, the best first, and why not everything could be met. */
export function Answers({ state, soFar, chosen, onChoose, onCancel, onLift, onAccept }: AnswersProps) {
  const answer = state?.answer ?? null;
  const isRunning = state?.state === 'running';
  return (
    <Panel
      title="Blends that answer"
      aside={answer ? `${answer.allowed} oils · ${formatNumber(answer.nodes, 0)} steps searched` : ''}
    >
      <div className={choice.scroll}>
        {isRunning && (
          <div className={classes.running} role="status">
            <span>
              Looking for {state.looking_for || 'the best blend'}
              {state.miss !== null && `: best so far misses ${formatNumber(state.miss ?? 0, 2)}`}
              {state.bound !== null && state.miss !== null && `, none can miss less than ${formatNumber(state.bound ?? 0, 2)}`}
            </span>
            <button type="button" onClick={onCancel}>
              Stop
            </button>
          </div>
        )}
        {isRunning && soFar && (
          <p className={choice.who} data-testid="so-far">
            {soFar.oils.map((oil) => `${oil.name} ${formatShare(oil.share_percent).replace('.0', '')}`).join(' · ')}
          </p>
        )}
        {answer && <p className={classes.objective}>{answer.objective}</p>}
        {answer?.conflict && (
          <div className={classes.conflict} data-testid="conflict">
            <strong>Not everything can be had.</strong> {answer.conflict.words}
            {answer.conflict.gives.length > 0 && (
              <span className={classes.lift}>
                {answer.conflict.gives.map((give) => (
                  <button key={give.feature} type="button" onClick={() => onAccept(give)} data-testid={`accept-${give.feature}`}>
                    Accept {give.target} {give.minimum ?? '…'} to {give.maximum ?? '…'}
                  </button>
                ))}
              </span>
            )}
            {answer.conflict.lift.length > 0 && (
              <span className={classes.lift}>
                {answer.conflict.lift.map((name, index) => (
                  <button key={name} type="button" onClick={() => onLift(name)}>
                    Lift {answer.conflict?.lift_names[index] ?? name}
                  </button>
                ))}
              </span>
            )}
          </div>
        )}
        {answer && answer.slack.length > 0 && (
          <p className={classes.slack}>Everything is met with room to spare. It could buy {answer.slack.join('; or ')}.</p>
        )}
        {answer && answer.solutions.length === 0 && answer.conflict?.lift.length === 0 && (
          <p className={classes.conflict}>The required targets and the limits leave no blend. Make a target preferred, or allow more oils.</p>
        )}
        <div role="radiogroup" aria-label="Blends that answer" className={choice.group} data-testid="solutions">
          {answer?.solutions.map((solution, index) => (
            <label key={index} className={choice.choice} data-chosen={index === chosen}>
              <input
                type="radio"
                name="solution"
                className={choice.radio}
                checked={index === chosen}
                onChange={() => onChoose(index)}
                data-testid={`solution-${index + 1}`}
              />
              <span className={choice.who}>
                {index + 1}.{' '}
                {solution.formula.blend.lines
                  .map((line, i) => `${solution.result.oils[i]?.name}\u00a0${line.by === 'percent_of_oils' ? formatShare(line.value ?? 0).replace('.0', '') : ''}`)
                  .join(' · ')}
              </span>
              <span className={choice.small}>
                {STATUS[solution.status]} ·{' '}
                {solution.is_met ? 'everything met' : `misses ${formatNumber(solution.miss, 1)} points`}
                {` · ${formatChance(solution.chance_in_range_percent)} chance to stay in range`}
                {solution.changed_percent != null && ` · ${formatNumber(solution.changed_percent, 1, 0)} points changed`}
                {solution.cost.per_kg != null && ` · ${formatNumber(solution.cost.per_kg, 2)}/kg`}
                {solution.status === 'gap' && ` (none can miss less than ${formatNumber(solution.bound, 2)})`}
                {solution.diagnostics.filter((one) => one.severity !== 'note').length > 0 &&
                  ` · ${solution.diagnostics.filter((one) => one.severity !== 'note').length} to watch`}
              </span>
            </label>
          ))}
        </div>
      </div>
    </Panel>
  );
}
