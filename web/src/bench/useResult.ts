import { useEffect, useRef, useState } from 'react';

import { ApiFailure } from '../api/client';
import { calculate } from '../api/queries';
import type { BlendPreview, Formula, Diagnostic, FormulaReport, FormulaResult, WeightUnitId, YourBars } from '../api/types';

/** fresh: belongs to the formula on screen. pending: asked, not answered yet. stopped: cannot be calculated, `problems`
 *  say why. unreachable: no answer. Only `fresh` result may be shown as today's. */
export type Freshness = 'fresh' | 'pending' | 'stopped' | 'unreachable';

export interface LiveResult {
  freshness: Freshness;
  /** The last good result; null until there has been one. */
  result: FormulaResult | null;
  /** The formula that `result` belong to. */
  of: Formula | null;
  /** What can be seen of a blend that cannot be calculated yet; null when there is a result, or nothing to see. */
  preview: BlendPreview | null;
  /** Where the workshop's own bars put its qualities. */
  yourBars: YourBars[];
  problems: Diagnostic[];
  /** What to know of the result: what must not be made so, what may spoil the bar, what is good to know. */
  advice: Diagnostic[];
}

interface Answer {
  to: Question;
  result: FormulaResult | null;
  of: Formula | null;
  preview: BlendPreview | null;
  yourBars: YourBars[];
  problems: Diagnostic[];
  advice: Diagnostic[];
  reachable: boolean;
}

interface Question {
  formula: Formula;
  unit: WeightUnitId;
}

const RETRY_MS = 1500;
const NONE: YourBars[] = [];

/** Calculate `formula` as it changes: one request under way at most, the newest next. `known` is what was said of the formula as it
 *  is first shown, in this unit. */
export function useResult(formula: Formula, unit: WeightUnitId, hasUnread: boolean, known: FormulaReport | null): LiveResult {
  const [answer, setAnswer] = useState<Answer | null>(() => known && answerOf({ formula, unit }, known));
  const waiting = useRef<Question | null>(null);
  const busy = useRef(false);
  const [attempt, setAttempt] = useState(0);

  const answersThis = answer !== null && answer.to.formula === formula && answer.to.unit === unit;
  const isAnswered = answersThis && answer.reachable;

  useEffect(() => {
    if (isAnswered) {
      waiting.current = null;
      return undefined;
    }
    let retry: ReturnType<typeof setTimeout> | undefined;
    waiting.current = { formula, unit };
    const pump = async () => {
      if (busy.current) return;
      busy.current = true;
      while (waiting.current !== null) {
        const question = waiting.current;
        waiting.current = null;
        const next = await ask(question);
        setAnswer((last) => ({
          ...next,
          result: next.result ?? last?.result ?? null,
          of: next.of ?? last?.of ?? null,
          yourBars: next.result === null ? (last?.yourBars ?? []) : next.yourBars,
        }));
        if (!next.reachable) retry = setTimeout(() => setAttempt((count) => count + 1), RETRY_MS);
      }
      busy.current = false;
    };
    void pump();
    return () => clearTimeout(retry);
  }, [isAnswered, formula, unit, attempt]);

  let freshness: Freshness = 'pending';
  if (answersThis) {
    if (!answer.reachable) freshness = 'unreachable';
    else freshness = answer.problems.length > 0 || hasUnread ? 'stopped' : 'fresh';
  }
  return {
    freshness,
    result: answer?.result ?? null,
    of: answer?.of ?? null,
    preview: answer?.preview ?? null,
    yourBars: answer?.yourBars ?? NONE,
    problems: answersThis ? answer.problems : [],
    advice: answersThis ? answer.advice : [],
  };
}

function answerOf(question: Question, { result, preview = null, diagnostics, your_bars: yourBars }: FormulaReport): Answer {
  const said = result === null ? { problems: diagnostics, advice: [] } : { problems: [], advice: diagnostics };
  return { to: question, result, preview, yourBars, of: result ? question.formula : null, ...said, reachable: true };
}

async function ask(question: Question): Promise<Answer> {
  try {
    return answerOf(question, await calculate(question.formula, question.unit));
  } catch (error) {
    const problems = error instanceof ApiFailure ? error.problems : [];
    return { to: question, result: null, of: null, preview: null, yourBars: NONE, problems, advice: [], reachable: problems.length > 0 };
  }
}
