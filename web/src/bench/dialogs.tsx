import { Button, Group, Modal, Stack, Text, Textarea } from '@mantine/core';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { at } from '../api/queries';
import type { FormulaRecord } from '../api/types';
import { useTellFailure } from '../shared/tellFailure';
import type { Draft } from './useDraft';

interface KeepVersionDialogProps {
  opened: boolean;
  nextNumber: number;
  onClose: () => void;
  onKeep: (note: string) => Promise<void>;
}

/** Keep the working copy as a version, with what changed and why. */
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
    <Modal opened={opened} onClose={onClose} title={`Keep as version ${nextNumber}`}>
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
    </Modal>
  );
}

interface ConflictDialogProps {
  draft: Draft;
  /** Called with the copy that now holds this tab's work. */
  onCopied: (copy: FormulaRecord) => void;
}

/** The formula was saved elsewhere since this tab opened it: nothing is overwritten without a choice. */
export function ConflictDialog({ draft, onCopied }: ConflictDialogProps) {
  const tellFailure = useTellFailure();
  const { record, formula } = draft;
  const choose = (act: (theirs: FormulaRecord) => Promise<void> | void) => async () => {
    try {
      await act(await answered(api.GET('/api/formulas/{formula_id}', at(record.id))));
    } catch (error) {
      tellFailure(error);
    }
  };
  const copy = choose(async () => {
    onCopied(
      await answered(
        api.POST('/api/formulas', { body: { ...formula, name: `${formula.name.slice(0, 108)} (my copy)` } }),
      ),
    );
  });
  return (
    <Modal
      opened={draft.save.kind === 'conflict'}
      onClose={() => undefined}
      withCloseButton={false}
      title="Saved elsewhere in the meantime"
    >
      <Stack>
        <Text size="sm">
          Another tab or device saved “{record.formula.name}” after this one opened it. What you did here is still here.
          What should become of it?
        </Text>
        <Button variant="filled" onClick={() => void copy()} data-autofocus>
          Keep mine as a formula of its own
        </Button>
        <Button onClick={() => void choose(draft.takeTheirs)()}>Take theirs (undo brings mine back)</Button>
        <Button onClick={() => void choose(draft.keepMine)()}>Replace theirs with mine</Button>
      </Stack>
    </Modal>
  );
}
