import { useCallback, useEffect, useRef, useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import type { Formula, SolveQuestion, SolveState, StartingQuestion } from '../api/types';

const WATCH_SECONDS = 0.25;

export interface Solving {
  state: SolveState | null;
  /** The question that `state` answers; another one on screen makes it stale. */
  of: SolveQuestion | null;
  failure: ApiFailure | null;
  start: (question: SolveQuestion) => void;
  cancel: () => void;
}

/** The question that a solve of `formula` begins with, for its own purpose or another. */
export function startOf(formula: Formula, purpose?: string): Promise<StartingQuestion> {
  return answered(api.POST('/api/solve-start', { body: formula, params: { query: purpose === undefined ? {} : { purpose } } }));
}

/** One question under way at a time; a new one, or leaving the screen, cancels the last. */
export function useSolve(): Solving {
  const [answer, setAnswer] = useState<{ state: SolveState; of: SolveQuestion } | null>(null);
  const [failure, setFailure] = useState<ApiFailure | null>(null);
  const job = useRef<string | null>(null);
  const turn = useRef(0);

  const drop = useCallback(() => {
    const id = job.current;
    job.current = null;
    if (id !== null) void api.DELETE('/api/solve/{job_id}', { params: { path: { job_id: id } } }).catch(() => undefined);
  }, []);

  const start = useCallback(
    (question: SolveQuestion) => {
      drop();
      turn.current += 1;
      const mine = turn.current;
      setFailure(null);
      const run = async () => {
        let seen = await answered(api.POST('/api/solve', { body: question }));
        if (turn.current !== mine) return;
        job.current = seen.id;
        while (turn.current === mine) {
          setAnswer({ state: seen, of: question });
          if (seen.state !== 'running') break;
          seen = await answered(
            api.GET('/api/solve/{job_id}', {
              params: { path: { job_id: seen.id }, query: { wait_seconds: WATCH_SECONDS } },
            }),
          );
        }
        if (turn.current === mine) job.current = null;
      };
      run().catch((error: unknown) => {
        if (turn.current !== mine) return;
        setFailure(error instanceof ApiFailure ? error : new ApiFailure(0, 'fault', String(error)));
        setAnswer(null);
      });
    },
    [drop],
  );

  useEffect(
    () => () => {
      turn.current += 1;
      drop();
    },
    [drop],
  );
  return { state: answer?.state ?? null, of: answer?.of ?? null, failure, start, cancel: drop };
}
