import { Button, Group, Stack, Textarea } from '@mantine/core';
import { useState } from 'react';

import { Dialog } from '../design/Dialog';


interface KeepVersionDialogProps {
  opened: boolean;
  nextNumber: number;
  onClose: () => void;
  onKeep: (note: string) => Promise<void>;
}

/** Keep the draft as a version, with what changed and why. */
export function KeepVersionDialog({ opened, nextNumber, onClose, onKeep }: KeepVersionDialogProps) {
  const [note, setNote] = useState('');
  const [busy, setBusy] = useState(false);
  const keep = async () => {
    setBusy(true);
    try {
      await onKeep(note.trim());
      setNote('');
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog opened={opened} onClose={onClose} title={`Keep as version ${nextNumber}`}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <Stack>
          <Textarea
            data-autofocus
            label="What changed, and why"
            description="It helps when you come back in a year. Versions never change."
            value={note}
            onChange={(event) => setNote(event.currentTarget.value)}
            maxLength={2000}
            autosize
            minRows={2}
          />
          <Group justify="flex-end">
            <Button onClick={onClose}>Not now</Button>
            <Button type="submit" variant="filled" loading={busy}>
              Keep version {nextNumber}
            </Button>
          </Group>
        </Stack>
      </form>
    </Dialog>
  );
}
