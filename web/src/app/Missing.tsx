import { Button, Stack, Text } from '@mantine/core';
import { Link } from 'react-router';

/** A page that is not there, and the way back. */
export function Missing({ title, message }: { title: string; message: string }) {
  return (
    <Stack maw={560} m="80px auto" px={20} gap="md">
      <h1>{title}</h1>
      <Text>{message}</Text>
      <div>
        <Button component={Link} to="/formulas" variant="filled">
          To the formulas
        </Button>
      </div>
    </Stack>
  );
}
