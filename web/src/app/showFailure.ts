import { notifications } from '@mantine/notifications';
import { createElement, Fragment, useCallback } from 'react';

import { ApiFailure } from '../api/client';
import { saidOf } from '../design/units';
import { Sentence } from '../design/Sentence';
import { saidOfError } from './saidOfError';
import { WhatHappened } from './WhatHappened';

/** Say what failed and what to do, in a notice that stays until it is read. */
export function useTellFailure(): (error: unknown) => void {
  return useCallback((error: unknown) => {
    const problems = error instanceof ApiFailure ? error.problems : [];
    const said = problems.map((problem) => saidOf(problem).concat(' ')).flat();
    notifications.show({
      color: 'red',
      title: 'That did not work',
      message: said.length > 0 ? createElement(Sentence, { children: said }) : createElement(Fragment, null, saidOfError(error), createElement(WhatHappened, { error })),
      autoClose: 12_000,
    });
  }, []);
}
