import { Button, Group, Stack, Text, TextInput } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import type { Target, TargetSet } from '../api/types';
import buttons from './buttons.module.css';
import { useTellFailure } from '../app/showFailure';

const KEY = ['target-sets'];

/** Targets that the maker saved under a name. */
export function useTargetSets(): TargetSet[] {
  return useQuery({ queryKey: KEY, queryFn: () => answered(api.GET('/api/target-sets')) }).data ?? [];
}

/** Remove a set; the message that says so can put it back. */
export function useRemoveTargetSet() {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  return async (set: TargetSet) => {
    try {
      const { name } = await answered(
        api.DELETE('/api/target-sets/{set_id}', { params: { path: { set_id: set.id } } }),
      );
      await client.invalidateQueries({ queryKey: KEY });
      const id = notifications.show({
        message: (
          <>
            “{name}” is archived.{' '}
            <button
              type="button"
              className={buttons.link}
              onClick={() => {
                notifications.hide(id);
                void answered(api.POST('/api/target-sets/{set_id}/restore', { params: { path: { set_id: set.id } } }))
                  .then(() => client.invalidateQueries({ queryKey: KEY }))
                  .catch(tellFailure);
              }}
            >
              Put it back
            </button>
          </>
        ),
        autoClose: 12_000,
      });
    } catch (error) {
      tellFailure(error);
    }
  };
}

interface SaveTargetSetProps {
  targets: Target[];
  onSaved: (set: TargetSet) => void;
  onCancel: () => void;
}

/** Give targets a name, so that any formula can be compared with them. */
export function SaveTargetSet({ targets, onSaved, onCancel }: SaveTargetSetProps) {
  const client = useQueryClient();
  const sets = useTargetSets();
  const [name, setName] = useState('');
  const [refusal, setRefusal] = useState<string | null>(null);
  const tellFailure = useTellFailure();
  const body = { name: name.trim(), targets };
  const settle = async (saving: Promise<TargetSet>) => {
    try {
      const set = await saving;
      await client.invalidateQueries({ queryKey: KEY });
      onSaved(set);
    } catch (error) {
      if (error instanceof ApiFailure && error.code === 'name_taken') setRefusal(error.message);
      else tellFailure(error);
    }
  };
  const sameName = sets.find((set) => set.name.toLowerCase() === body.name.toLowerCase());
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        event.stopPropagation();
        if (body.name === '') setRefusal('Give them a name, such as “winter guests”.');
        else void settle(answered(api.POST('/api/target-sets', { body })));
      }}
    >
      <Stack gap="sm">
        <TextInput
          data-autofocus
          label="Name of these targets"
          value={name}
          maxLength={80}
          error={refusal}
          onChange={(event) => {
            setName(event.currentTarget.value);
            setRefusal(null);
          }}
          data-testid="target-set-name"
        />
        {targets.length === 0 && <Text size="sm">There is no target range yet to save.</Text>}
        <Group justify="flex-end" gap="xs">
          <Button onClick={onCancel}>Not now</Button>
          {sameName !== undefined && refusal !== null && (
            <Button
              onClick={() =>
                void settle(
                  answered(
                    api.PUT('/api/target-sets/{set_id}', { params: { path: { set_id: sameName.id }, query: { revision: sameName.revision } }, body }),
                  ),
                )
              }
            >
              Replace “{sameName.name}”
            </Button>
          )}
          <Button type="submit" variant="filled" disabled={targets.length === 0} data-testid="save-target-set">
            Save
          </Button>
        </Group>
      </Stack>
    </form>
  );
}
