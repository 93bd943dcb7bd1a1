import { Button, Stack, Text } from '@mantine/core';

import { Dialog } from '../design/Dialog';
import { useTellFailure } from '../app/showFailure';

interface ConflictDialogProps<R> {
  opened: boolean;
  name: string;
  /** What a copy of one's own becomes. */
  copyLabel?: string;
  load: () => Promise<R>;
  /** Keep this tab's work beside theirs; left out where there can be only one. */
  onCopy?: () => Promise<void>;
  onTheirs: (theirs: R) => void;
  onMine: (theirs: R) => void;
  /** Why theirs can no longer be replaced, if so. */
  isFinal?: (theirs: R) => boolean;
}

/** Something was saved elsewhere since this tab opened it: nothing is overwritten without a choice. */
export function ConflictDialog<R>({ opened, name, copyLabel, load, onCopy, onTheirs, onMine, isFinal }: ConflictDialogProps<R>) {
  const tellFailure = useTellFailure();
  const choose = (act: (theirs: R) => Promise<void> | void) => async () => {
    try {
      await act(await load());
    } catch (error) {
      tellFailure(error);
    }
  };
  const mine = choose((theirs) => {
    if (isFinal?.(theirs)) throw new Error('It has begun in the meantime, so it no longer changes. Keep yours beside it, or take theirs.');
    onMine(theirs);
  });
  return (
    <Dialog opened={opened} onClose={() => undefined} withCloseButton={false} title="Saved elsewhere in the meantime">
      <Stack data-testid="conflict-dialog">
        <Text size="sm">
          Another tab or device saved “{name}” after this one opened it. What you did here is still here. What should become of it?
        </Text>
        {onCopy && (
          <Button variant="filled" onClick={() => void choose(onCopy)()} data-autofocus data-testid="keep-copy">
            {copyLabel}
          </Button>
        )}
        <Button onClick={() => void choose(onTheirs)()} data-testid="take-theirs">
          Take theirs (undo brings mine back)
        </Button>
        <Button onClick={() => void mine()} data-testid="keep-mine">
          Replace theirs with mine
        </Button>
      </Stack>
    </Dialog>
  );
}
