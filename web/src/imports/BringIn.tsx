import { Button, FileButton, SegmentedControl } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';

import { answered, api } from '../api/client';
import { newKey } from '../api/newKey';
import type { ImportMapping, ImportPreview } from '../api/types';
import { useTellFailure } from '../app/showFailure';
import columns from '../design/columns.module.css';
import { shortDateTime } from '../design/dates';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { Refused } from '../design/Refused';
import { SelectField } from '../design/SelectField';
import { Advice } from '../design/Sentence';
import classes from '../shelf/Buying.module.css';
import { fileAsBase64, type SentFile } from '../shelf/sentFile';

type Kind = 'formulas' | 'stock' | 'batches';
const KINDS: { value: Kind; label: string; about: string; at: string }[] = [
  { value: 'formulas', label: 'Formulas', about: 'One row an oil: the name of the formula, the oil, its amount; a superfat if there is one. Lye is calculated anew.', at: '/formulas' },
  { value: 'stock', label: 'Stock', about: 'One row a tub: its code, the material, how much of it; price, dates, supplier and purity of lye if there are any.', at: '/stock' },
  { value: 'batches', label: 'Past batches', about: 'One row a batch: the formula by its name, the day it was made, its oils; bars and a note if there are any. Each says that its weights are those of the plan.', at: '/batches' },
];
const NOUNS: Record<Kind, [string, string]> = { formulas: ['formula', 'formulas'], stock: ['lot', 'lots'], batches: ['batch', 'batches'] };
const FIELDS: Record<string, string> = {
  formula: 'Formula', oil: 'Oil', amount: 'Amount', superfat: 'Superfat', code: 'Code', material: 'Material', price: 'Price', arrived: 'Came in on', best_before: 'Best before', supplier: 'Supplier', purity: 'Purity of lye', made: 'Made on', oils: 'Oils together', bars: 'Bars', note: 'Note',
};

/** A table from elsewhere: which column is what, what comes of each row, kept when it is right, and undone at once. */
export function BringIn() {
  const { kind: asked } = useParams();
  const [kind, setKind] = useState<Kind>(asked === 'stock' || asked === 'batches' ? asked : 'formulas');
  const [file, setFile] = useState<SentFile | null>(null);
  const [mapping, setMapping] = useState<ImportMapping | null>(null);
  const [key, setKey] = useState(() => newKey());
  const client = useQueryClient();
  useDocumentTitle('Bring a table in · Sapolin');
  const { data: preview, error } = useQuery({
    queryKey: ['import', kind, file?.name, file?.content.length, mapping],
    queryFn: ({ signal }) => answered(api.POST('/api/imports/preview', { body: { kind, file: file ?? { name: '', content: '' }, mapping }, signal })),
    enabled: file !== null,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const start = (next: SentFile | null) => {
    setFile(next);
    setMapping(null);
    setKey(newKey());
  };
  const keep = useMutation({
    mutationFn: () => answered(api.POST('/api/imports', { body: { kind, key, file: file ?? { name: '', content: '' }, mapping: mapping ?? preview?.mapping ?? { fields: {}, decimal: '', unit: '', day_first: '' } } })),
    onSuccess: async () => {
      start(null);
      await client.invalidateQueries();
    },
  });
  const chosen = KINDS.find((one) => one.value === kind) ?? KINDS[0];
  return (
    <div className={columns.page}>
      <div className={heads.top}>
        <h1>Bring a table in</h1>
      </div>
      <div className={heads.sides}>
        <Panel title={chosen?.label ?? ''}>
          <SegmentedControl value={kind} onChange={(next) => { setKind(next as Kind); start(null); }} data={KINDS.map(({ value, label }) => ({ value, label }))} aria-label="What the table holds" data-testid="import-kind" />
          <p className="muted">{chosen?.about}</p>
          {file === null ? (
            <div className={classes.drop}>
              <p>A CSV or spreadsheet (XLSX) file. Nothing is kept before you have seen what comes of it.</p>
              <FileButton onChange={(next) => next && void fileAsBase64(next).then(start)} accept=".csv,.txt,.tsv,.xlsx,text/csv">
                {(props) => (
                  <Button {...props} variant="filled" data-testid="choose-table">
                    Choose a file
                  </Button>
                )}
              </FileButton>
            </div>
          ) : (
            <>
              {error !== null && <Refused error={error} />}
              {preview !== undefined && (
                <>
                  <Mapping preview={preview} mapping={mapping ?? preview.mapping} onChange={setMapping} />
                  <Items preview={preview} />
                </>
              )}
              {keep.error !== null && <Refused error={keep.error} />}
              <div className={classes.sum}>
                <Button onClick={() => start(null)}>Another file</Button>
                <span className={classes.spring} />
                <Button variant="filled" disabled={(preview?.usable ?? 0) === 0} loading={keep.isPending} onClick={() => keep.mutate()} data-testid="keep-table">
                  Bring {preview?.usable ?? 0} in
                </Button>
              </div>
            </>
          )}
        </Panel>
        <Before />
      </div>
    </div>
  );
}

function Mapping({ preview, mapping, onChange }: { preview: ImportPreview; mapping: ImportMapping; onChange: (mapping: ImportMapping) => void }) {
  const options = [{ value: '', label: 'not in the table' }, ...preview.headers.map((header) => ({ value: header, label: header }))];
  return (
    <div className={classes.mapping} data-testid="import-mapping">
      {preview.fields.map((field) => (
        <SelectField
          key={field}
          label={`${FIELDS[field] ?? field}${preview.needed.includes(field) ? '' : ', if any'}`}
          showLabel
          value={mapping.fields[field] ?? ''}
          options={options}
          onChange={(header) => {
            const others = Object.fromEntries(Object.entries(mapping.fields).filter(([known]) => known !== field));
            onChange({ ...mapping, fields: header === '' ? others : { ...others, [field]: header } });
          }}
          testId={`import-${field}`}
        />
      ))}
      <SelectField label="A bare number is" showLabel value={mapping.unit} options={['', 'g', 'kg', 'oz', 'lb', 'ml', 'l', '%'].map((unit) => ({ value: unit, label: unit === '' ? 'no amount' : unit }))} onChange={(unit) => onChange({ ...mapping, unit })} testId="import-unit" />
      <SelectField
        label="Before decimals stands"
        showLabel
        value={mapping.decimal}
        options={[
          { value: '', label: 'as each number shows' },
          { value: ',', label: 'a comma' },
          { value: '.', label: 'a point' },
        ]}
        onChange={(decimal) => onChange({ ...mapping, decimal })}
      />
      <SelectField
        label="3/4/2026 is"
        showLabel
        value={mapping.day_first}
        options={[
          { value: '', label: 'asked about' },
          { value: 'day', label: '3 April' },
          { value: 'month', label: '4 March' },
        ]}
        onChange={(day_first) => onChange({ ...mapping, day_first })}
      />
    </div>
  );
}

function Items({ preview }: { preview: ImportPreview }) {
  if (preview.problems.length > 0) {
    return (
      <ul role="alert">
        {preview.problems.map((problem) => (
          <li key={problem.path}>
            <Advice of={problem} />
          </li>
        ))}
      </ul>
    );
  }
  return (
    <>
      <p className={classes.counts} data-testid="import-counts">
        <span>
          <b>{preview.usable}</b> to bring in
        </span>
        <span>
          <b>{preview.left_out}</b> left out
        </span>
      </p>
      <div className={classes.wide}>
        <table className={classes.rows}>
          <thead>
            <tr>
              <th>Row</th>
              <th>Name</th>
              <th>What comes of it</th>
            </tr>
          </thead>
          <tbody>
            {preview.items.map((item) => (
              <tr key={item.line} data-out={item.problem !== null}>
                <td data-number>{item.line}</td>
                <td>{item.title}</td>
                <td>{item.problem === null ? item.about : <span className={classes.problem}><Advice of={item.problem} /></span>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

/** What was brought in before, each with its undo. */
function Before() {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const { data } = useQuery({ queryKey: ['imports'], queryFn: () => answered(api.GET('/api/imports')) });
  const [told, setTold] = useState('');
  const undo = useMutation({
    mutationFn: (id: string) => answered(api.POST('/api/imports/{import_id}/undo', { params: { path: { import_id: id } } })),
    onSuccess: async (done) => {
      setTold(`${done.taken_away} taken away${done.kept > 0 ? `; ${done.kept} stay, since they were used` : ''}.`);
      await client.invalidateQueries();
    },
    onError: tellFailure,
  });
  return (
    <Panel title="Brought in before">
      {data?.length === 0 && <p className="muted">Nothing yet.</p>}
      <ul className={classes.needs} data-testid="imports">
        {data?.map((one) => (
          <li key={one.id}>
            <span>
              <b>
                <Link to={KINDS.find((kind) => kind.value === one.kind)?.at ?? '/'}>{one.made.length} {NOUNS[one.kind][one.made.length === 1 ? 0 : 1]}</Link>
              </b>
              <small>
                {one.file_name} · {shortDateTime(one.at)}
                {one.undone_at !== null && ' · undone'}
              </small>
            </span>
            {one.undone_at === null && (
              <Button size="compact-md" loading={undo.isPending} onClick={() => undo.mutate(one.id)}>
                Undo
              </Button>
            )}
          </li>
        ))}
      </ul>
      {told !== '' && <p role="status">{told}</p>}
    </Panel>
  );
}
