import { Button, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { useTellFailure } from '../app/showFailure';
import { shortDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { SelectField } from '../design/SelectField';
import { Amount } from './Amount';
import { Asked } from './Asked';
import classes from './Cure.module.css';
import { TrayPicture } from './TrayPicture';
import { sourcesOf } from './sources';
import { EMPTY } from './typed';
import { useCuring, useEntry } from './useCure';
import { useTrays } from './useTrays';

/** Where the bars are: trays from above, and moving bars from one to another. */
export function Rack() {
  const { view } = useCuring();
  const { data: trays = [] } = useTrays();
  const { problem, send, clear } = useEntry();
  const [bars, setBars] = useState(EMPTY);
  const [from, setFrom] = useState<string | null>(null);
  const [to, setTo] = useState('');
  const [adds, setAdds] = useState(false);
  const mine = trays.filter((one) => (view.state.trays[one.tray.code] ?? 0) > 0);
  const sources = sourcesOf(view.state);
  const source = sources.some((one) => one.value === from) ? (from ?? '') : (sources[0]?.value ?? '');
  const there = source === '' ? view.state.on_table : (view.state.trays[source] ?? 0);
  const targets = trays.filter((one) => one.tray.code !== source).map((one) => ({ value: one.tray.code, label: `${one.tray.code}, ${one.free} free${one.tray.shelf ? ` · ${one.tray.shelf}` : ''}` }));
  const target = targets.some((one) => one.value === to) ? to : (targets[0]?.value ?? '');
  const move = async () => {
    if (await send({ kind: 'placed', bars: bars.value ?? there, tray: target, from_tray: source === '' ? null : source })) setBars(EMPTY);
  };
  const turned = view.state.turned_at;
  return (
    <Panel title="Where the bars are" aside={turned === null ? 'not turned yet' : `last turned ${shortDate(turned)}`}>
      <div className={classes.trays}>
        {mine.map((one) => (
          <TrayPicture key={one.tray.code} tray={one} batchId={view.batch_id} />
        ))}
        {view.state.on_table > 0 && <p className={classes.lead}>{view.state.on_table} on no tray yet.</p>}
        {view.here === 0 && <p className={classes.lead}>No bar of this batch is left here.</p>}
      </div>
      {view.here > 0 && sources.length > 0 && (
        <>
          <div className={classes.fields}>
            <Amount label="Move" unit="bars" value={bars} onChange={(next) => { setBars(next); clear(); }} placeholder={`all ${there}`} testId="move-bars" />
            <SelectField label="From" showLabel value={source} options={sources} onChange={setFrom} testId="move-from" />
            <SelectField label="To tray" showLabel value={target} options={targets.length > 0 ? targets : [{ value: '', label: 'add a tray' }]} onChange={(next) => { setTo(next); clear(); }} testId="move-to" />
          </div>
          <div className={classes.row}>
            <Button size="md" variant={view.state.on_table > 0 ? 'filled' : 'default'} disabled={target === ''} onClick={() => void move()} data-testid="move">
              Move
            </Button>
            <Button size="md" onClick={() => void send({ kind: 'turned' })} data-testid="turn">
              Turned them
            </Button>
            <Button size="md" onClick={() => setAdds((now) => !now)} aria-expanded={adds} data-testid="add-tray">
              Add a tray
            </Button>
          </div>
          <Asked problem={problem} />
          {(adds || trays.length === 0) && <NewTray onDone={() => setAdds(false)} />}
        </>
      )}
    </Panel>
  );
}

function NewTray({ onDone }: { onDone: () => void }) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const [code, setCode] = useState('');
  const [shelf, setShelf] = useState('');
  const [columns, setColumns] = useState(EMPTY);
  const [rows, setRows] = useState(EMPTY);
  const isWhole = code.trim() !== '' && columns.value !== null && rows.value !== null;
  const keep = async () => {
    const tray = { code: code.trim(), shelf: shelf.trim(), columns: columns.value ?? 1, rows: rows.value ?? 1 };
    try {
      await answered(api.PUT('/api/trays/{code}', { params: { path: { code: tray.code } }, body: tray }));
      await client.invalidateQueries({ queryKey: ['trays'] });
      onDone();
    } catch (failure) {
      tellFailure(failure);
    }
  };
  return (
    <div className={classes.fields}>
      <TextInput label="Code" value={code} maxLength={12} onChange={(event) => setCode(event.currentTarget.value)} placeholder="R6" data-testid="tray-code" />
      <TextInput label="Shelf" value={shelf} maxLength={40} onChange={(event) => setShelf(event.currentTarget.value)} placeholder="Window, top" />
      <Amount label="Bars in a row" value={columns} onChange={setColumns} testId="tray-columns" />
      <Amount label="Rows" value={rows} onChange={setRows} testId="tray-rows" />
      <Button size="md" variant="filled" disabled={!isWhole} onClick={() => void keep()} data-testid="keep-tray">
        Keep the tray
      </Button>
    </div>
  );
}
