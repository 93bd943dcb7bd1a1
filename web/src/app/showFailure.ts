import { notifications } from '@mantine/notifications';
import { useCallback } from 'react';

import { ApiFailure } from '../api/client';

/** Say what failed and what to do, in a notice that stays until it is read. */
export function useTellFailure(): (error: unknown) => void {
  return useCallback((error: unknown) => {
    const problems = error instanceof ApiFailure ? error.problems : [];
    const told = problems.map((problem) => `${problem.message} ${problem.remedy}`).join(' ');
    notifications.show({
      color: 'red',
      title: 'That did not work',
      message: told || (error instanceof Error ? error.message : String(error)),
      autoClose: 12_000,
    });
  }, []);
}
