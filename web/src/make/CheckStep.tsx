import { useState, type ReactNode } from 'react';

import type { Diagnostic, Step } from '../api/types';
import { Sentence } from '../design/Sentence';
import classes from './Make.module.css';
import { useWork } from './MakeContext';
import { saidOf } from '../design/units';

interface CheckStepProps {
  step: Step;
  isCurrent: boolean;
  /** What else can be done now, beside the button. */
  beside?: ReactNode;
}

/** What has to be confirmed, point by point, and the button that says the step is done. */
export function CheckStep({ step, isCurrent, beside }: CheckStepProps) {
  const { run, send } = useWork();
  const [checked, setChecked] = useState<string[]>([]);
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  const [isBusy, setIsBusy] = useState(false);
  const isAll = step.checks.every((check) => checked.includes(check));
  const done = async () => {
    if (!isCurrent || !isAll || isBusy) return;
    setIsBusy(true);
    const sent = await send({ kind: 'step_done', step: step.id, confirmed: checked });
    setIsBusy(false);
    setProblem(sent.ok ? null : sent.problem);
  };
  const isNotReady = step.kind === 'temperature' && run.cooling?.ready === false;
  return (
    <>
      {step.checks.length > 0 && (
        <ul className={classes.checks}>
          {step.checks.map((check) => (
            <li key={check}>
              <label>
                <input
                  type="checkbox"
                  checked={!isCurrent || checked.includes(check)}
                  disabled={!isCurrent}
                  onChange={(event) => {
                    const isOn = event.currentTarget.checked;
                    setChecked((now) => (isOn ? [...now, check] : now.filter((one) => one !== check)));
                  }}
                />
                {check}
              </label>
            </li>
          ))}
        </ul>
      )}
      {problem && (
        <p className={classes.problem} role="alert">
          <Sentence>{saidOf(problem)}</Sentence>
        </p>
      )}
      {isCurrent && (
        <div className={`${classes.actions} ${classes.main_actions}`}>
          <button type="button" className={isNotReady ? classes.big : classes.primary} data-caustic={step.caustic} disabled={!isAll || isBusy} onClick={() => void done()} data-testid="step-done">
            {step.kind === 'confirm' ? 'All of this is so' : isNotReady ? 'Go on anyway' : 'Done'}
          </button>
          {beside}
        </div>
      )}
    </>
  );
}
