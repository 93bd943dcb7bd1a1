import { Button, Group, Text } from '@mantine/core';
import { useBlocker } from 'react-router';

import { Dialog } from '../design/Dialog';

interface StayGuardProps {
  /** Something is on screen that would be lost by leaving. */
  when: boolean;
  /** What it is. */
  what: string;
}

/** Nobody leaves a screen with work on it that is kept nowhere, unless they say so. */
export function StayGuard({ when, what }: StayGuardProps) {
  const blocker = useBlocker(({ currentLocation, nextLocation }) => when && currentLocation.pathname !== nextLocation.pathname);
  const stay = () => blocker.reset?.();
  return (
    <Dialog opened={blocker.state === 'blocked'} onClose={stay} title="This is kept nowhere yet">
      <Text size="sm" mb="md">
        {what} would be lost by leaving.
      </Text>
      <Group justify="flex-end">
        <Button onClick={() => blocker.proceed?.()} data-testid="leave-anyway">
          Leave without it
        </Button>
        <Button variant="filled" onClick={stay} data-autofocus data-testid="stay">
          Stay here
        </Button>
      </Group>
    </Dialog>
  );
}
