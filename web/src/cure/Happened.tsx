import { Button, SegmentedControl, TextInput } from '@mantine/core';
import { useState } from 'react';

import { Dialog } from '../design/Dialog';
import { shortDateTime } from '../design/dates';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import buttons from '../design/buttons.module.css';
import { useTemperature } from '../design/temperature';
import { useSymptoms } from '../guide/useFaults';
import { useWeights } from '../design/units';
import { Amount } from './Amount';
import { Asked } from './Asked';
import classes from './Cure.module.css';
import { EMPTY } from './typed';
import { useCuring, useEntry, type CureEvent } from './useCure';

const AT_FIRST = 10;

/** Everything recorded after the pour; a wrong entry is struck with a reason, never wiped out. Notes and the room are added here. */
export function Happened() {
  const { view } = useCuring();
  const words = useWords();
  const { problem, send, clear } = useEntry();
  const [wrong, setWrong] = useState<number | null>(null);
  const [reason, setReason] = useState('');
  const strike = async () => {
    if (wrong !== null && (await send({ kind: 'struck', seq: wrong, reason: reason.trim() }))) {
      setWrong(null);
      setReason('');
    }
  };
  const out = new Map(view.events.flatMap(({ event }) => (event.kind === 'struck' ? [[event.seq, event.reason] as const] : [])));
  const all = view.events.filter(({ event }) => event.kind !== 'struck').reverse();
  const [isWhole, setWhole] = useState(false);
  const shown = isWhole ? all : all.slice(0, AT_FIRST);
  return (
    <Panel title="What happened" aside={`${all.length} entries, the newest first`}>
      <Notes />
      <ol className={classes.record} data-testid="cure-record">
        {shown.map(({ seq, at, event }) => (
          <li key={seq} data-void={out.has(seq)}>
            <time>{shortDateTime(at)}</time>
            <span>
              {seq}. {words(event)}
              {out.has(seq) && <em> · struck: {out.get(seq)}</em>}
            </span>
            {!out.has(seq) && (
              <button type="button" className={classes.small} onClick={() => { setWrong(seq); clear(); }} aria-label={`Strike entry ${seq}`}>
                Strike
              </button>
            )}
          </li>
        ))}
        {shown.length === 0 && <li className="muted">Nothing yet.</li>}
      </ol>
      {all.length > shown.length && (
        <button type="button" className={buttons.link} onClick={() => setWhole(true)}>
          {all.length - shown.length} more
        </button>
      )}
      <Dialog opened={wrong !== null} onClose={() => { setWrong(null); clear(); }} title={`Entry ${wrong ?? ''} was a slip`}>
        <p>It stays in the record, struck out, and no longer counts.</p>
        <TextInput label="What was wrong" value={reason} maxLength={500} onChange={(event) => setReason(event.currentTarget.value)} data-autofocus data-testid="strike-reason" />
        <Asked problem={problem} />
        <div className={classes.row}>
          <Button variant="filled" disabled={reason.trim() === ''} onClick={() => void strike()} data-testid="strike">
            Strike it
          </Button>
        </div>
      </Dialog>
    </Panel>
  );
}

function Notes() {
  const { problem, send } = useEntry();
  const [what, setWhat] = useState('note');
  const [text, setText] = useState('');
  const temperature = useTemperature();
  const [warmth, setWarmth] = useState(EMPTY);
  const [damp, setDamp] = useState(EMPTY);
  const note = async () => {
    if (text.trim() !== '' && (await send({ kind: 'noted', text: text.trim(), next_time: what === 'next time' }))) setText('');
  };
  const room = async () => {
    const celsius = warmth.value === null ? null : temperature.letter === 'F' ? (warmth.value - 32) / 1.8 : warmth.value;
    if (await send({ kind: 'room', celsius, humidity_percent: damp.value })) {
      setWarmth(EMPTY);
      setDamp(EMPTY);
    }
  };
  return (
    <>
      <SegmentedControl value={what} onChange={setWhat} data={['note', 'next time', 'room']} aria-label="What to add" fullWidth />
      {what === 'room' ? (
        <div className={classes.fields}>
          <Amount label="Room" unit={temperature.unit} value={warmth} onChange={setWarmth} decimals={1} testId="room-c" />
          <Amount label="Damp" unit="%" value={damp} onChange={setDamp} testId="room-damp" />
          <Button disabled={warmth.value === null && damp.value === null} onClick={() => void room()} data-testid="record-room">
            Record
          </Button>
        </div>
      ) : (
        <div className={classes.note}>
          <TextInput aria-label={what === 'note' ? 'Note' : 'For next time'} placeholder={what === 'note' ? 'What you notice' : 'Comes back when this formula is planned again'} value={text} maxLength={2000} onChange={(event) => setText(event.currentTarget.value)} onKeyDown={(event) => event.key === 'Enter' && void note()} data-testid="cure-note" />
          <Button disabled={text.trim() === ''} onClick={() => void note()}>
            Add
          </Button>
        </div>
      )}
      <Asked problem={problem} />
    </>
  );
}

const LEFT_TO = { sold: 'sold', given: 'given', kept: 'kept', lost: 'lost or discarded' };
const HOW = { clean: 'came out clean', stuck: 'stuck', broke: 'broke' };
const bars = (count: number) => (count === 1 ? '1 bar' : `${count} bars`);

/** An entry in a few words. */
function useWords(): (event: CureEvent) => string {
  const weights = useWeights();
  const temperature = useTemperature();
  const symptoms = useSymptoms();
  return (event) => {
    switch (event.kind) {
      case 'pressed':
        return `Pressed: ${event.firmness}`;
      case 'unmoulded':
        return `Unmoulded: ${HOW[event.how]}`;
      case 'cut':
        return `Cut: ${bars(event.bars)}${event.seconds ? `, ${event.seconds} seconds` : ''}${event.samples ? `, ${event.samples} for tests` : ''}${event.trims_g != null ? `, trims ${weights.tell(event.trims_g)}` : ''}${event.pattern ? `, ${event.pattern}` : ''}`;
      case 'seen':
        return `Seen ${event.where}: ${(symptoms.find((one) => one.id === event.fault)?.name ?? event.fault).toLowerCase()}${event.text ? `. ${event.text}` : ''}`;
      case 'placed':
        return `${bars(event.bars)} to tray ${event.tray}${event.from_tray ? ` from ${event.from_tray}` : ''}`;
      case 'turned':
        return 'Turned over';
      case 'weighed':
        return `${(event.bars ?? 1) > 1 ? `${event.bars} bars of tray` : 'Bar'} ${event.mark}: ${weights.tell(event.weight_g, 1)}${event.source === 'typed' ? ', typed' : ''}`;
      case 'room':
        return `Room: ${[event.celsius != null ? `${temperature.format(event.celsius, 1)} ${temperature.unit}` : '', event.humidity_percent != null ? `damp ${formatNumber(event.humidity_percent, 0)} %` : ''].filter(Boolean).join(', ')}`;
      case 'fit_tested':
        return `Tested: ${[event.ph != null ? `pH ${formatNumber(event.ph, 1)}` : '', event.zap == null ? '' : event.zap ? 'stings' : 'no sting', event.looks_right == null ? '' : event.looks_right ? 'looks right' : 'looks wrong'].filter(Boolean).join(', ')}`;
      case 'left':
        return `${bars(event.bars)} ${LEFT_TO[event.to]}${event.where ? `: ${event.where}` : ''}`;
      case 'looked':
        return `Looked at: scent ${event.scent.replace('_', ' ')}, colour ${event.colour.replace('_', ' ')}${event.spots ? ', spots' : ''}${event.text ? `. ${event.text}` : ''}`;
      case 'pictured':
        return `Picture: ${event.name}`;
      case 'judged':
        return `Judged by ${event.tester}: ${Object.keys(event.scores ?? {}).length + Object.keys(event.measures ?? {}).length} entries on a sheet`;
      case 'noted':
        return event.next_time ? `Next time: ${event.text}` : event.text;
      case 'struck':
        return `Entry ${event.seq} struck`;
    }
  };
}
