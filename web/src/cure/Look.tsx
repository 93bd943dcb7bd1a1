import { Button, SegmentedControl, TextInput } from '@mantine/core';
import { useState } from 'react';

import { Panel } from '../design/Panel';
import { Asked } from './Asked';
import classes from './Cure.module.css';
import { useEntry, type CureEvent } from './useCure';

type Looked = Extract<CureEvent, { kind: 'looked' }>;
const SCENTS: { value: Looked['scent']; label: string }[] = [
  { value: 'as_new', label: 'as new' },
  { value: 'weaker', label: 'weaker' },
  { value: 'gone', label: 'gone' },
  { value: 'off', label: 'bad' },
];
const COLOURS: { value: Looked['colour']; label: string }[] = [
  { value: 'as_new', label: 'as new' },
  { value: 'paler', label: 'paler' },
  { value: 'darker', label: 'darker' },
  { value: 'changed', label: 'another' },
];

/** A look at kept bars, 3, 6 and 12 months after cutting. */
export function Look() {
  const { problem, send } = useEntry();
  const [scent, setScent] = useState<Looked['scent'] | ''>('');
  const [colour, setColour] = useState<Looked['colour'] | ''>('');
  const [spots, setSpots] = useState('');
  const [text, setText] = useState('');
  const record = async () => {
    if (scent === '' || colour === '' || spots === '') return;
    if (await send({ kind: 'looked', scent, colour, spots: spots === 'spots', text: text.trim() })) {
      setScent('');
      setColour('');
      setSpots('');
      setText('');
    }
  };
  return (
    <Panel title="A later look" aside="at 3, 6 and 12 months">
      <div className={classes.choices}>
        <span id="look-scent">Scent</span>
        <SegmentedControl aria-labelledby="look-scent" value={scent} onChange={(next) => setScent(next as Looked['scent'])} data={SCENTS} />
        <span id="look-colour">Colour</span>
        <SegmentedControl aria-labelledby="look-colour" value={colour} onChange={(next) => setColour(next as Looked['colour'])} data={COLOURS} />
        <span id="look-spots">Spots</span>
        <SegmentedControl aria-labelledby="look-spots" value={spots} onChange={setSpots} data={['none', 'spots']} />
      </div>
      <TextInput label="In your words" value={text} maxLength={500} onChange={(event) => setText(event.currentTarget.value)} mt={8} />
      <div className={classes.row}>
        <Button size="md" variant="filled" disabled={scent === '' || colour === '' || spots === ''} onClick={() => void record()} data-testid="record-look">
          Record the look
        </Button>
      </div>
      <Asked problem={problem} />
    </Panel>
  );
}
