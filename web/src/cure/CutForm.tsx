import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';

import { Panel } from '../design/Panel';
import { Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import { Amount, WeightAmount } from './Amount';
import { Asked } from './Asked';
import classes from './Cure.module.css';
import { EMPTY } from './typed';
import { useCuring, useEntry } from './useCure';

/** Cut and counted, against the cutting plan. */
export function CutForm() {
  const { view } = useCuring();
  const weights = useWeights();
  const [bars, setBars] = useState(EMPTY);
  const [seconds, setSeconds] = useState(EMPTY);
  const [samples, setSamples] = useState(EMPTY);
  const [trims, setTrims] = useState(EMPTY);
  const [pattern, setPattern] = useState('');
  const { problem, send } = useEntry();
  const planned = view.planned.reduce((sum, one) => sum + one.bars, 0);
  const record = (sure = false) =>
    void send({
      kind: 'cut',
      bars: bars.value ?? 0,
      seconds: seconds.value ?? 0,
      samples: samples.value ?? 0,
      trims_g: trims.value,
      pattern: pattern.trim(),
      sure,
    });
  return (
    <Panel title="Cut and count" aside={planned > 0 ? `planned: ${planned} bars` : undefined}>
      {view.planned.map((one) => (
        <p key={one.mould} className={classes.lead}>
          {one.mould}: <Sentence>{one.label}</Sentence>, {weights.tell(one.wet_g)} each now, about {weights.tell(one.cured_g)} once cured.
        </p>
      ))}
      <div className={classes.fields}>
        <Amount label="Bars in all" value={bars} onChange={setBars} testId="bars" />
        <Amount label="Seconds among them" value={seconds} onChange={setSeconds} placeholder="0" testId="seconds" />
        <Amount label="Samples for tests" value={samples} onChange={setSamples} placeholder="0" testId="samples" />
        <WeightAmount label="Trims" value={trims} onChange={setTrims} placeholder="not weighed" testId="trims" />
      </div>
      <TextInput label="Pattern or technique" value={pattern} maxLength={80} onChange={(event) => setPattern(event.currentTarget.value)} placeholder="such as two-colour swirl" mt={8} />
      <div className={classes.row}>
        <Button size="md" variant="filled" disabled={bars.value === null} onClick={() => record()} data-testid="record-cut">
          Record the cutting
        </Button>
        {planned > 0 && bars.value === null && (
          <Button size="md" onClick={() => setBars({ value: planned })} data-testid="as-planned">
            {planned}, as planned
          </Button>
        )}
      </div>
      <Asked problem={problem} onSure={() => record(true)} />
    </Panel>
  );
}
