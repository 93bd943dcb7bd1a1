import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';

import { Panel } from '../design/Panel';
import { SelectField } from '../design/SelectField';
import { Amount } from './Amount';
import { Asked } from './Asked';
import classes from './Cure.module.css';
import { sourcesOf } from './sources';
import { EMPTY } from './typed';
import { useCuring, useEntry } from './useCure';

const TO = [
  { value: 'sold', label: 'Sold' },
  { value: 'given', label: 'Given' },
  { value: 'kept', label: 'For our own use' },
  { value: 'lost', label: 'Lost or discarded' },
] as const;

/** Bars that leave the rack, and where they went. */
export function Leave() {
  const { view } = useCuring();
  const { problem, send, clear } = useEntry();
  const [bars, setBars] = useState(EMPTY);
  const [to, setTo] = useState<(typeof TO)[number]['value']>('sold');
  const [where, setWhere] = useState('');
  const [from, setFrom] = useState('');
  const sources = sourcesOf(view.state);
  const source = sources.some((one) => one.value === from) ? from : (sources[0]?.value ?? '');
  const record = async () => {
    if (await send({ kind: 'left', bars: bars.value ?? 0, to, where: where.trim(), tray: source === '' ? null : source })) {
      setBars(EMPTY);
      setWhere('');
    }
  };
  const gone = TO.flatMap(({ value, label }) => {
    const count = view.state.gone.filter((one) => one.to === value).reduce((sum, one) => sum + one.bars, 0);
    return count > 0 ? [`${label.toLowerCase()} ${count}`] : [];
  });
  return (
    <Panel title="Bars that leave" aside={`${view.here} here${view.state.samples > 0 ? `, ${view.state.samples} for tests` : ''}`}>
      {gone.length > 0 && <p className={classes.lead}>So far: {gone.join(', ')}.</p>}
      {view.here > 0 && (
        <>
          <div className={classes.fields}>
            <Amount label="Bars" value={bars} onChange={(next) => { setBars(next); clear(); }} testId="leave-bars" />
            <SelectField label="How" showLabel value={to} options={TO} onChange={(next) => { setTo(next); clear(); }} testId="leave-to" />
            <SelectField label="From" showLabel value={source} options={sources} onChange={setFrom} />
          </div>
          <TextInput label="Where to" value={where} maxLength={120} onChange={(event) => setWhere(event.currentTarget.value)} mt={8} />
          <div className={classes.row}>
            <Button size="md" variant="filled" disabled={bars.value === null || bars.value < 1} onClick={() => void record()} data-testid="record-leave">
              Record it
            </Button>
          </div>
        </>
      )}
      <Asked problem={problem} />
    </Panel>
  );
}
