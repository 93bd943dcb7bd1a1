import { Button, Group, Stack, Text } from '@mantine/core';
import { useQueryErrorResetBoundary } from '@tanstack/react-query';
import { isRouteErrorResponse, Link, useRouteError } from 'react-router';

import { saidOfError } from './saidOfError';
import { WhatHappened } from './WhatHappened';

/** What a screen shows when it broke or could not be fetched: what happened, what is safe, and the ways on. */
export function Failure() {
  const error = useRouteError();
  const { reset } = useQueryErrorResetBoundary();
  const message = isRouteErrorResponse(error) ? error.statusText : saidOfError(error);
  return (
    <Stack maw={560} m="64px auto" px="md" gap="md" role="alert">
      <h1>This screen could not be shown</h1>
      <Text>{message}</Text>
      <Text>What was shown as saved is saved; what you typed since is kept on this device.</Text>
      <Group>
        <Button
          variant="filled"
          onClick={() => {
            reset();
            window.location.reload();
          }}
        >
          Try again
        </Button>
        <Button component={Link} to="/">
          To Today
        </Button>
      </Group>
      <WhatHappened error={error} />
    </Stack>
  );
}
