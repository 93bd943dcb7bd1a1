import { Autocomplete, Button, FileButton, Select } from '@mantine/core';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import type { ListColumns, ListPreview, ListRow } from '../api/types';
import { Amount } from '../cure/Amount';
import { EMPTY } from '../cure/typed';
import { Dialog } from '../design/Dialog';
import { formatNumber } from '../design/quantity';
import { Refused } from '../design/Refused';
import { SelectField } from '../design/SelectField';
import { Advice } from '../design/Sentence';
import { useWeights } from '../design/units';
import classes from './Buying.module.css';
import { fileAsBase64, type SentFile } from './sentFile';
import { useStockChoices } from './useStockChoices';

const FIELDS: { field: keyof NonNullable<ListColumns['fields']>; label: string }[] = [
  { field: 'name', label: 'Name' },
  { field: 'pack', label: 'Pack' },
  { field: 'unit', label: 'Unit of the pack' },
  { field: 'price', label: 'Price' },
  { field: 'step', label: 'Sold in multiples of' },
];
const PER: { value: NonNullable<ListColumns['priced_by']>; label: string }[] = [
  { value: 'pack', label: 'the pack' },
  { value: 'kg', label: 'a kg' },
  { value: 'g', label: 'a g' },
  { value: 'l', label: 'a litre' },
  { value: 'lb', label: 'a lb' },
  { value: 'oz', label: 'an oz' },
  { value: 'gal', label: 'a gallon' },
  { value: 'piece', label: 'a piece' },
];

const NO_COLUMNS: ListColumns = { fields: {}, decimal: '', priced_by: 'pack', pack_unit: '', chosen: {} };

/** A supplier's price list: which column is what, which name is which material, and what of it cannot be read. */
export function ReadPriceList({ suppliers, onClose }: { suppliers: string[]; onClose: () => void }) {
  const client = useQueryClient();
  const [file, setFile] = useState<SentFile | null>(null);
  const [supplier, setSupplier] = useState('');
  const [columns, setColumns] = useState<ListColumns | null>(null);
  const [freight, setFreight] = useState(EMPTY);
  const [freeFrom, setFreeFrom] = useState(EMPTY);
  const [leastOrder, setLeastOrder] = useState(EMPTY);
  const { data: preview, error } = useQuery({
    queryKey: ['price-list', file?.name, file?.content.length, columns, columns === null ? supplier : ''],
    queryFn: ({ signal }) => answered(api.POST('/api/price-lists/preview', { body: { file: file ?? { name: '', content: '' }, supplier, columns }, signal })),
    enabled: file !== null,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const now = columns ?? preview?.columns ?? null;
  const keep = useMutation({
    mutationFn: () =>
      answered(
        api.POST('/api/price-lists', {
          body: { file: file ?? { name: '', content: '' }, supplier: supplier.trim(), columns: now ?? NO_COLUMNS, freight: freight.value ?? 0, free_from: freeFrom.value, least_order: leastOrder.value ?? 0 },
        }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['buying'] });
      onClose();
    },
  });
  const isUnread = [freight, freeFrom, leastOrder].some((one) => one.unread !== undefined);
  return (
    <Dialog opened onClose={onClose} title="Read a price list" size={880}>
      {file === null ? (
        <div className={classes.drop}>
          <p>A CSV or spreadsheet (XLSX) file with names, packs and prices. Nothing is kept before you have seen how it is read.</p>
          <FileButton onChange={(chosen) => chosen && void fileAsBase64(chosen).then(setFile)} accept=".csv,.txt,.tsv,.xlsx,text/csv">
            {(props) => (
              <Button {...props} variant="filled" data-testid="choose-list">
                Choose a file
              </Button>
            )}
          </FileButton>
        </div>
      ) : (
        <>
          <div className={classes.supplier}>
            <Autocomplete label="Supplier" data={suppliers} value={supplier} maxLength={80} onChange={setSupplier} data-testid="list-supplier" />
            <Amount label="Freight, one delivery" decimals={2} value={freight} onChange={setFreight} placeholder="0" testId="list-freight" />
            <Amount label="Free from goods worth" decimals={2} value={freeFrom} onChange={setFreeFrom} placeholder="never" testId="list-free-from" />
            <Amount label="Delivers from" decimals={2} value={leastOrder} onChange={setLeastOrder} placeholder="any" />
          </div>
          {error !== null && <Refused error={error} />}
          {preview !== undefined && now !== null && (
            <>
              <Mapping headers={preview.headers} columns={now} onChange={setColumns} />
              {preview.is_remembered && columns === null && <p className="muted">Read as the last list of this supplier was.</p>}
              <Rows preview={preview} onChoose={(name, material) => setColumns({ ...now, chosen: { ...now.chosen, [name]: material } })} />
            </>
          )}
          {keep.error !== null && <Refused error={keep.error} />}
          <Button mt={14} size="lg" fullWidth variant="filled" disabled={supplier.trim() === '' || isUnread || (preview?.read.usable ?? 0) === 0} loading={keep.isPending} onClick={() => keep.mutate()} data-testid="keep-list">
            {supplier.trim() === '' ? 'Say whose list it is' : `Keep ${preview?.read.usable ?? 0} packs`}
          </Button>
        </>
      )}
    </Dialog>
  );
}

function Mapping({ headers, columns, onChange }: { headers: string[]; columns: ListColumns; onChange: (columns: ListColumns) => void }) {
  const options = [{ value: '', label: 'not in the list' }, ...headers.map((header) => ({ value: header, label: header }))];
  return (
    <div className={classes.mapping} data-testid="mapping">
      {FIELDS.map(({ field, label }) => (
        <SelectField
          key={field}
          label={label}
          showLabel
          value={columns.fields?.[field] ?? ''}
          options={options}
          onChange={(header) => {
            const others = Object.fromEntries(Object.entries(columns.fields ?? {}).filter(([known]) => known !== field));
            onChange({ ...columns, fields: header === '' ? others : { ...others, [field]: header } });
          }}
          testId={`column-${field}`}
        />
      ))}
      <SelectField label="The price is for" showLabel value={columns.priced_by ?? 'pack'} options={PER} onChange={(priced_by) => onChange({ ...columns, priced_by })} testId="priced-by" />
      <SelectField
        label="Before decimals stands"
        showLabel
        value={columns.decimal ?? ''}
        options={[
          { value: '', label: 'as each number shows' },
          { value: ',', label: 'a comma: 12,50' },
          { value: '.', label: 'a point: 12.50' },
        ]}
        onChange={(decimal) => onChange({ ...columns, decimal })}
        testId="decimal"
      />
      <SelectField
        label="A bare number is"
        showLabel
        value={columns.pack_unit ?? ''}
        options={['', 'g', 'kg', 'ml', 'l', 'oz', 'lb', 'piece'].map((unit) => ({ value: unit, label: unit === '' ? 'no pack' : unit }))}
        onChange={(pack_unit) => onChange({ ...columns, pack_unit })}
        testId="pack-unit"
      />
    </div>
  );
}

function Rows({ preview, onChoose }: { preview: ListPreview; onChoose: (name: string, material: string) => void }) {
  const { read } = preview;
  if (read.problems.length > 0) {
    return (
      <ul role="alert">
        {read.problems.map((problem) => (
          <li key={problem.path}>
            <Advice of={problem} />
          </li>
        ))}
      </ul>
    );
  }
  return (
    <>
      {(read.doubts ?? []).map((doubt) => (
        <div key={doubt.code} role="alert" data-testid="price-doubt">
          <Advice of={doubt} />
        </div>
      ))}
      <p className={classes.counts} data-testid="list-counts">
        <span>
          <b>{read.usable}</b> to buy from
        </span>
        <span>
          <b>{read.unmatched}</b> to choose a material for
        </span>
        <span>
          <b>{read.unreadable}</b> left out
        </span>
        {read.rows.length < read.usable + read.unmatched + read.unreadable && <span className="muted">the first {read.rows.length} are shown, those with something to settle first</span>}
      </p>
      <div className={classes.wide}>
        <table className={classes.rows} data-testid="list-rows">
          <thead>
            <tr>
              <th>Row</th>
              <th>Name</th>
              <th>Material</th>
              <th>Pack</th>
              <th>Price</th>
              <th>per kg</th>
            </tr>
          </thead>
          <tbody>
            {read.rows.map((row) => (
              <Row key={row.line} row={row} preview={preview} onChoose={onChoose} />
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

function Row({ row, preview, onChoose }: { row: ListRow; preview: ListPreview; onChoose: (name: string, material: string) => void }) {
  const weights = useWeights();
  const choices = useStockChoices();
  const nameOf = (id: string) => preview.names.find((one) => one.material === id)?.name ?? id;
  const likely = row.suggestions.map((id) => ({ value: id, label: nameOf(id) }));
  const known = new Set(likely.map((one) => one.value));
  const own = `packaging:${row.name.toLowerCase().slice(0, 60)}`;
  const packaging = [...preview.packaging.filter((one) => one.material !== own).map((one) => ({ value: one.material, label: `packaging: ${one.name}` })), { value: own, label: `packaging: ${row.name.toLowerCase().slice(0, 60)}` }];
  const others = choices.flatMap((group) => group.items).filter((one) => !known.has(one.value));
  return (
    <tr data-out={row.left_out || row.problem !== null}>
      <td data-number>{row.line}</td>
      <td>
        {row.name}
        {row.problem !== null && (
          <div className={classes.problem}>
            <Advice of={row.problem} />
          </div>
        )}
      </td>
      <td>
        {row.name !== '' && (
          <Select
            aria-label={`Material of ${row.name}`}
            data={[{ group: 'Likely', items: likely }, { group: 'Or', items: [{ value: '-', label: 'do not buy it' }, ...packaging] }, { group: 'All', items: others.map(({ value, label }) => ({ value, label })) }]}
            value={row.left_out ? '-' : row.material}
            placeholder="choose …"
            searchable
            nothingFoundMessage="Nothing by that name"
            onChange={(material) => material !== null && onChoose(row.name, material === '-' ? '' : material)}
          />
        )}
      </td>
      <td data-number>{row.pack_g === null ? row.pack : row.material?.startsWith('packaging:') ? `${formatNumber(row.pack_g, 0)} pcs` : weights.tell(row.pack_g)}</td>
      <td data-number>{row.pack_price === null ? row.price : formatNumber(row.pack_price, 2)}</td>
      <td data-number>{row.per_kg === null ? '' : formatNumber(row.per_kg, 2)}</td>
    </tr>
  );
}
