import { Button, Group, Modal, Stack, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import type { Run } from '../api/types';
import buttons from '../shared/buttons.module.css';
import { useTemperature } from '../shared/temperature';
import { useTold, useWeights } from '../shared/units';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';
import { leftOver } from './PourStep';
import { timeOf } from './time';
import type { RunEvent } from './useRun';

const CORRECTABLE = new Set<RunEvent['kind']>(['captured', 'temperature', 'traced', 'burst', 'noted', 'poured', 'chose', 'way_taken']);

/** Everything that was recorded; a wrong entry is set aside with a reason, never wiped out. */
export function RecordDialog({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const { run, send } = useMaking();
  const [wrong, setWrong] = useState<number | null>(null);
  const [isGivingUp, setIsGivingUp] = useState(false);
  const [reason, setReason] = useState('');
  const { data: record = [] } = useQuery({
    queryKey: ['record', run.record.id, run.state.seq],
    queryFn: () => answered(api.GET('/api/batches/{batch_id}/record', { params: { path: { batch_id: run.record.id } } })),
    enabled: opened,
  });
  const corrected = new Map(record.flatMap(({ event }) => (event.kind === 'corrected' ? [[event.seq, event.reason] as const] : [])));
  const settle = async () => {
    const said = reason.trim();
    if (said === '') return;
    const sent = isGivingUp ? await send({ kind: 'aborted', reason: said }) : await send({ kind: 'corrected', seq: wrong ?? 0, reason: said });
    if (!sent.ok) return;
    setReason('');
    setWrong(null);
    setIsGivingUp(false);
    if (isGivingUp) onClose();
  };
  const units = { weights: useWeights(), temperature: useTemperature(), told: useTold() };
  const asks = wrong !== null || isGivingUp;
  return (
    <Modal opened={opened} onClose={onClose} title="The record" size="lg">
      <ol className={classes.record}>
        {record.map(({ seq, at, event }) => (
          <li key={seq} data-void={corrected.has(seq)}>
            <time>{timeOf(at)}</time>
            <span>
              {wordsOf(event, run, units)}
              {corrected.has(seq) && <em> does not count: {corrected.get(seq)}</em>}
            </span>
            {CORRECTABLE.has(event.kind) && !corrected.has(seq) && run.state.status === 'making' && (
              <button type="button" className={buttons.link} onClick={() => setWrong(seq)}>
                wrong
              </button>
            )}
          </li>
        ))}
      </ol>
      {asks ? (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void settle();
          }}
        >
          <Stack gap="sm">
            <TextInput
              data-autofocus
              label={isGivingUp ? 'Why is this batch given up?' : 'What is wrong about it?'}
              value={reason}
              maxLength={500}
              onChange={(event) => setReason(event.currentTarget.value)}
              data-testid="reason"
            />
            <Group justify="flex-end">
              <Button onClick={() => { setWrong(null); setIsGivingUp(false); }}>Not now</Button>
              <Button type="submit" variant="filled" disabled={reason.trim() === ''} data-testid="settle">
                {isGivingUp ? 'Give the batch up' : 'Set it aside'}
              </Button>
            </Group>
          </Stack>
        </form>
      ) : (
        <Group justify="flex-end">
          <Button onClick={() => setIsGivingUp(true)} data-testid="give-up">Give this batch up …</Button>
        </Group>
      )}
    </Modal>
  );
}

interface Units {
  weights: ReturnType<typeof useWeights>;
  temperature: ReturnType<typeof useTemperature>;
  told: (text: string) => string;
}

function wordsOf(event: RunEvent, run: Run, { weights, temperature, told }: Units): string {
  const step = run.work.steps.find((one) => ('item' in event && one.weigh?.item === event.item) || ('step' in event && one.id === event.step));
  switch (event.kind) {
    case 'started':
      return 'Make day begun';
    case 'step_done':
      return `Step done: ${step?.title ?? event.step}`;
    case 'captured':
      return `${step?.weigh?.name ?? event.item}: ${weights.format(event.weight_g, step?.weigh?.decimals)} ${weights.unit}${event.adds ? ' more' : ''}, ${event.source}`;
    case 'way_taken':
      return event.words ? told(event.words) : `${step?.weigh?.name ?? event.item}: ${event.way}`;
    case 'temperature':
      return `${event.bowl} at ${temperature.format(event.celsius, 1)} ${temperature.unit}, ${event.source}`;
    case 'chose':
      return event.what.replace('_', ' ');
    case 'traced':
      return `trace: ${event.stage}`;
    case 'burst':
      return 'a burst of the blender';
    case 'noted':
      return `“${event.text}”${event.next_time ? ' (next time)' : ''}`;
    case 'photographed':
      return `picture ${event.name}`;
    case 'poured':
      return `${run.work.planned.moulds[event.mould]?.name ?? `mould ${event.mould + 1}`}: ${leftOver(event.difference_ml)}`;
    case 'corrected':
      return `Entry ${event.seq} set aside: ${event.reason}`;
    case 'aborted':
      return `Given up: ${event.reason}`;
    case 'finished':
      return 'Make day finished';
  }
}
