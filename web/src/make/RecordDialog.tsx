import { Button, Group, Radio, Stack, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import type { Diagnostic, Text } from '../api/types';
import { Dialog } from '../design/Dialog';
import { NumberField } from '../design/NumberField';
import buttons from '../design/buttons.module.css';
import { formatNumber } from '../design/quantity';
import { useTemperature } from '../design/temperature';
import { saidOf, useShown, useWeights } from '../design/units';
import classes from './Make.module.css';
import { useWork, type WorkRun } from './MakeContext';
import { leftOver } from './PourStep';
import { timeOf } from './time';
import type { RunEvent } from './useRun';
import { Sentence } from '../design/Sentence';


/** The record over make day. */
export function RecordDialog({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Dialog opened={opened} onClose={onClose} title="The record" size="lg">
      <Record onGivenUp={onClose} />
    </Dialog>
  );
}

/** Everything that was recorded; a wrong entry is corrected with a reason, never wiped out. */
export function Record({ onGivenUp }: { onGivenUp?: () => void }) {
  const { run, send, record: fetchRecord } = useWork();
  const [wrong, setWrong] = useState<number | null>(null);
  const [isGivingUp, setIsGivingUp] = useState(false);
  const [reason, setReason] = useState('');
  /** Of a batch that is given up: what becomes of what was weighed and is not mixed yet. */
  const [left, setLeft] = useState<'put_back' | 'wasted' | null>(null);
  /** Of a weight: whether what was weighed is in the bowl, and what it really was. */
  const [inBowl, setInBowl] = useState<boolean | null>(null);
  const [trueWeight, setTrueWeight] = useState<{ value: number | null; unread?: string }>({ value: null });
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  const { data: record = [] } = useQuery({
    queryKey: ['record', run.record.id, run.events],
    queryFn: fetchRecord,
  });
  const corrected = new Map(record.flatMap(({ event }) => (event.kind === 'amended' ? [[event.seq, event] as const] : [])));
  const meant = record.find(({ seq }) => seq === wrong)?.event;
  const weighed = meant?.kind === 'captured' ? meant : null;
  const isSomethingLeft = Object.keys(run.state.captured_g).length > 0 && !run.state.done.includes('combine');
  const canSettle = reason.trim() !== '' && (!isGivingUp || !isSomethingLeft || left !== null) && (weighed === null || inBowl === false || (inBowl === true && trueWeight.value !== null && trueWeight.unread === undefined));
  const leave = () => {
    setReason('');
    setLeft(null);
    setWrong(null);
    setInBowl(null);
    setTrueWeight({ value: null });
    setProblem(null);
    setIsGivingUp(false);
  };
  const settle = async () => {
    const said = reason.trim();
    if (!canSettle) return;
    const sent = isGivingUp
      ? await send({ kind: 'aborted', reason: said, weighed: left ?? 'wasted' })
      : await send({ kind: 'amended', seq: wrong ?? 0, reason: said, in_bowl: weighed ? inBowl : null, weight_g: weighed && inBowl ? trueWeight.value : null });
    if (!sent.ok) {
      setProblem(sent.problem);
      return;
    }
    leave();
    if (isGivingUp) onGivenUp?.();
  };
  const weights = useWeights();
  const units = { weights, temperature: useTemperature(), shown: useShown() };
  const asks = wrong !== null || isGivingUp;
  const itemOf = run.prepared.steps.find((step) => step.weigh && step.weigh.item === weighed?.item)?.weigh;
  return (
    <>
      <ol className={classes.record}>
        {record.filter(({ event }) => event.kind !== 'tared').map(({ seq, at, event }) => (
          <li key={seq} data-void={corrected.has(seq)}>
            <time>{timeOf(at)}</time>
            <span>
              {wordsOf(event, run, units)}
              <CorrectionOf correction={corrected.get(seq)} />
            </span>
            {run.amendable.includes(seq) && (
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
            {isGivingUp && isSomethingLeft && (
              <Radio.Group label="What becomes of what was weighed and is not mixed with lye?" value={left ?? ''} onChange={(value) => setLeft(value as 'put_back' | 'wasted')}>
                <Stack gap="xs" mt="xs">
                  <Radio value="put_back" label="Back into its tubs. Stock counts it as not taken." data-testid="weighed-put-back" />
                  <Radio value="wasted" label="Gone: thrown away, or used for something else. Stock takes it off." data-testid="weighed-wasted" />
                </Stack>
              </Radio.Group>
            )}
            {weighed && (
              <>
                <Radio.Group label={`Is what was weighed in the bowl already?`} value={inBowl === null ? '' : String(inBowl)} onChange={(value) => setInBowl(value === 'true')}>
                  <Stack gap="xs" mt="xs">
                    <Radio value="true" label="Yes, it is in there. I enter its true weight." data-testid="in-bowl-yes" />
                    <Radio value="false" label="No. It was not poured, or is out again, and will be weighed again." data-testid="in-bowl-no" />
                  </Stack>
                </Radio.Group>
                {inBowl === true && (
                  <NumberField
                    showLabel
                    label={weighed.adds ? `True weight of this load of ${itemOf?.name ?? ''}` : `True weight of ${itemOf?.name ?? ''}`}
                    value={trueWeight.value}
                    unit={weights.unit}
                    step={1}
                    format={(grams) => weights.format(grams, itemOf?.decimals)}
                    parse={weights.parse}
                    unread={trueWeight.unread}
                    onUnread={(text) => setTrueWeight((now) => ({ ...now, unread: text ?? undefined }))}
                    onChange={(value) => setTrueWeight({ value })}
                    testId="true-weight"
                  />
                )}
              </>
            )}
            {problem && (
              <p className={classes.problem} role="alert">
                <Sentence>{saidOf(problem)}</Sentence>
              </p>
            )}
            <Group justify="flex-end">
              <Button onClick={leave}>Not now</Button>
              <Button type="submit" variant="filled" disabled={!canSettle} data-testid="settle">
                {isGivingUp ? 'Give the batch up' : 'Correct it'}
              </Button>
            </Group>
          </Stack>
        </form>
      ) : (
        run.state.status === 'making' && <Group justify="flex-end">
          <Button onClick={() => setIsGivingUp(true)} data-testid="give-up">Give this batch up …</Button>
        </Group>
      )}
    </>
  );
}

type Correction = Extract<RunEvent, { kind: 'amended' }>;

function CorrectionOf({ correction }: { correction: Correction | undefined }) {
  const weights = useWeights();
  if (correction === undefined) return null;
  if (typeof correction.weight_g === 'number') return <em> really {weights.tell(correction.weight_g, 1)}: {correction.reason}</em>;
  return <em> does not count: {correction.reason}</em>;
}

interface Units {
  weights: ReturnType<typeof useWeights>;
  temperature: ReturnType<typeof useTemperature>;
  shown: (text: Text) => string;
}

function wordsOf(event: RunEvent, run: WorkRun, { weights, temperature, shown }: Units): string {
  const step = run.prepared.steps.find((one) => ('item' in event && one.weigh?.item === event.item) || ('step' in event && one.id === event.step));
  switch (event.kind) {
    case 'started':
      return 'Make day begun';
    case 'lot_chosen':
      return `${step?.weigh?.name ?? event.item}: ${event.code === '' ? 'from no lot that is kept' : `from lot ${event.code}`}`;
    case 'tared':
      return `Scale tared for ${step?.weigh?.name ?? event.item}`;
    case 'step_done':
      return `Step done: ${step?.title ?? event.step}`;
    case 'captured':
      return `${step?.weigh?.name ?? event.item}: ${weights.format(event.weight_g, step?.weigh?.decimals)} ${weights.unit}${event.adds ? ' more' : ''}, ${event.source}`;
    case 'correction_taken':
      return event.words.length > 0 ? shown(event.words) : `${step?.weigh?.name ?? event.item}: ${event.correction}`;
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
    case 'stage_reached':
      return `stage: ${run.prepared.steps.flatMap((one) => one.stages ?? []).find((one) => one.id === event.stage)?.name ?? event.stage}`;
    case 'tested': {
      const test = run.prepared.steps.find((one) => one.test === event.test);
      const said = typeof event.ph === 'number' ? `pH ${formatNumber(event.ph, 1)}` : (test?.outcomes?.find((one) => one.id === event.outcome)?.label ?? event.outcome);
      return `${test?.title ?? event.test}: ${said}`;
    }
    case 'packed':
      return `packed: ${event.jars}, ${weights.tell(event.weight_g)} together`;
    case 'salt_step':
      return `salt test: ${weights.tell(event.brine_g, 1)} brine, ${formatNumber(event.seconds, 0)} s`;
    case 'poured':
      return `${run.prepared.planned?.moulds[event.mould]?.name ?? `mould ${event.mould + 1}`}: ${leftOver(event.difference_ml)}`;
    case 'amended':
      return `Entry ${event.seq} corrected: ${event.reason}`;
    case 'aborted':
      return `Given up: ${event.reason}`;
    case 'finished':
      return 'Make day finished';
  }
}
