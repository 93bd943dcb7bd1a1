import { Button, SegmentedControl, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';

import buttons from '../design/buttons.module.css';
import { Panel } from '../design/Panel';
import { Sentence } from '../design/Sentence';
import { Asked } from './Asked';
import classes from './Cure.module.css';
import { useSymptoms } from '../guide/useFaults';
import { FAULT_IDS } from './faults';
import { Pictures } from './Pictures';
import { useCuring, useEntry } from './useCure';

const SHOWN = 3;

/** What is seen on and in the bars, each with its likely causes from this batch's own record. */
export function Seen() {
  const { view } = useCuring();
  const symptoms = useSymptoms();
  const { problem, send } = useEntry();
  const [fault, setFault] = useState<(typeof FAULT_IDS)[number] | null>(null);
  const [where, setWhere] = useState<'outside' | 'inside'>('outside');
  const [text, setText] = useState('');
  const record = async () => {
    if (fault !== null && (await send({ kind: 'seen', fault, where, text: text.trim() }))) {
      setFault(null);
      setText('');
    }
  };
  return (
    <Panel title="What is seen" aside={view.faults.length === 0 ? 'nothing recorded' : undefined}>
      {view.faults.map((one) => (
        <section key={one.symptom.id} className={classes.fault} data-testid={`fault-${one.symptom.id}`}>
          <h3>{one.symptom.name}</h3>
          <p>
            <Sentence>{one.now}</Sentence>
          </p>
          <ol>
            {one.causes.slice(0, SHOWN).map((cause) => (
              <li key={cause.cause}>
                <b>{cause.name}</b>
                {cause.reasons[0] && cause.reasons[0].ratio > 1 && (
                  <>
                    {' '}
                    On record: <Sentence>{cause.reasons[0].words}</Sentence>
                  </>
                )}{' '}
                <em>
                  <Sentence>{cause.next_time}</Sentence>
                </em>
              </li>
            ))}
          </ol>
          <Link to={`/guide/faults/${one.symptom.id}?batch=${view.batch_id}`} className={buttons.link}>
            Find out more
          </Link>
        </section>
      ))}
      <div className={classes.chips} role="radiogroup" aria-label="What you see">
        {FAULT_IDS.map((one) => (
          <button key={one} type="button" role="radio" aria-checked={fault === one} className={classes.chip} onClick={() => setFault(one)} data-testid={`see-${one}`}>
            {symptoms.find((symptom) => symptom.id === one)?.name ?? one}
          </button>
        ))}
      </div>
      {fault !== null && (
        <>
          <SegmentedControl mt={8} value={where} onChange={(next) => setWhere(next as 'outside' | 'inside')} data={[{ value: 'outside', label: 'outside' }, { value: 'inside', label: 'inside, when cut' }]} />
          <TextInput label="In your words" value={text} maxLength={500} onChange={(event) => setText(event.currentTarget.value)} mt={8} />
          <div className={classes.row}>
            <Button size="md" variant="filled" onClick={() => void record()} data-testid="record-seen">
              Record it
            </Button>
          </div>
        </>
      )}
      <Asked problem={problem} />
      <Pictures />
    </Panel>
  );
}
