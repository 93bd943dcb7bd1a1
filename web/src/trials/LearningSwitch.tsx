import { Switch, type SwitchProps } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import { changeWorkshop } from '../api/workshop';
import { useTellFailure } from '../app/showFailure';

/** Whether forecasts and scales go by what the workshop's batches taught; pressed twice in a row, both presses count in their order. */
export function LearningSwitch({ isUsed, ...rest }: { isUsed: boolean } & Pick<SwitchProps, 'label' | 'size'>) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const change = useMutation({
    scope: { id: 'workshop' },
    mutationFn: (learns: boolean) => changeWorkshop(client, { learns }, { learns: !learns }),
    onError: tellFailure,
    onSettled: () => client.invalidateQueries(),
  });
  const isOn = change.isPending ? change.variables : isUsed;
  return <Switch {...rest} checked={isOn} onChange={(event) => change.mutate(event.currentTarget.checked)} data-testid="learns" />;
}
