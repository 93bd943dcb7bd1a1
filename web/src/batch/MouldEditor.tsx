import { Button, Group, Stack, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { useReference } from '../api/queries';
import type { Mould, MouldView } from '../api/types';
import { Dialog } from '../design/Dialog';
import { NumberField } from '../design/NumberField';
import { optionsOf } from '../design/optionsOf';
import { formatNumber, parseNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { useTellFailure } from '../app/showFailure';
import classes from './Batch.module.css';
import { saidOf } from '../design/units';

type Shape = Mould['shape'];
type Kind = Shape['kind'];

const FIELDS: Record<Kind, { entry: string; label: string; unit: string }[]> = {
  loaf: [
    { entry: 'length_mm', label: 'Length', unit: 'mm' },
    { entry: 'width_mm', label: 'Width', unit: 'mm' },
    { entry: 'height_mm', label: 'Height', unit: 'mm' },
  ],
  slab: [
    { entry: 'length_mm', label: 'Length', unit: 'mm' },
    { entry: 'width_mm', label: 'Width', unit: 'mm' },
    { entry: 'height_mm', label: 'Height', unit: 'mm' },
  ],
  cylinder: [
    { entry: 'diameter_mm', label: 'Diameter', unit: 'mm' },
    { entry: 'length_mm', label: 'Length', unit: 'mm' },
  ],
  half_spheres: [
    { entry: 'diameter_mm', label: 'Diameter', unit: 'mm' },
    { entry: 'count', label: 'Cavities', unit: '' },
  ],
  cavities: [
    { entry: 'count', label: 'Cavities', unit: '' },
    { entry: 'cavity_ml', label: 'Each takes', unit: 'mL' },
  ],
  measured: [{ entry: 'volume_ml', label: 'It takes', unit: 'mL' }],
};
/** A mould that takes what it measures, until a batch shows otherwise. */
const unmeasured = (shape: Shape): Mould => ({ id: '', name: '', shape, calibration_percent: 100, notes: '' });

interface MouldEditorProps {
  /** Null for a new one. */
  mould: Mould | null;
  /** The one it is changed from; 0 for a new one. */
  revision: number;
  onClose: () => void;
  onKept: (kept: MouldView) => void;
}

/** Measure a mould: its kind, its inside measures, and what it really takes. */
export function MouldEditor({ mould, revision, onClose, onKept }: MouldEditorProps) {
  const { choices, starting_shapes: shapes } = useReference();
  const [edited, setEdited] = useState<Mould>(mould ?? unmeasured(shapes.loaf as Shape));
  // Of the mould as it was opened: a change from elsewhere that is not seen here is never overwritten.
  const [from] = useState(revision);
  const [unread, setUnread] = useState<Record<string, string | undefined>>({});
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const [settled] = useDebouncedValue(edited, 150);
  const check = useQuery({
    queryKey: ['mould-check', settled],
    queryFn: () => answered(api.POST('/api/moulds/check', { body: { ...settled, name: settled.name || 'mould' } })),
    retry: false,
  });
  const problems = check.error instanceof ApiFailure ? check.error.problems : [];
  const shape = edited.shape as unknown as Record<string, number | null>;
  const setEntry = (entry: string, value: number | null) =>
    setEdited((now) => ({ ...now, shape: { ...now.shape, [entry]: entry === 'count' ? (value ?? 0) : value } as Shape }));
  const setKind = (kind: Kind) =>
    setEdited((now) => {
      const old = now.shape as unknown as Record<string, number | null>;
      // What is typed already stays where the other shape has it too.
      const begun = Object.entries(shapes[kind] ?? {}).map(([entry, value]) => [entry, entry === 'kind' ? kind : (old[entry] ?? value)]);
      return { ...now, shape: Object.fromEntries(begun) as Shape };
    });
  const keep = async () => {
    try {
      const kept = await answered(api.PUT('/api/moulds', { params: { query: { revision: from } }, body: { ...edited, name: edited.name.trim() } }));
      await client.invalidateQueries({ queryKey: ['moulds'] });
      onKept(kept);
      onClose();
    } catch (error) {
      await client.invalidateQueries({ queryKey: ['moulds'] });
      tellFailure(error);
    }
  };
  const field = (entry: string, label: string, unit: string) => {
    const found = problems.find((problem) => problem.path === `shape.${entry}` && problem.code !== 'missing');
    return (
      <NumberField
        key={entry}
        showLabel
        label={label}
        value={shape[entry] ?? null}
        unit={unit}
        step={1}
        format={(value) => formatNumber(value, 1, 0)}
        parse={parseNumber}
        unread={unread[entry]}
        onUnread={(text) => setUnread((now) => ({ ...now, [entry]: text ?? undefined }))}
        emptyIs={entry === 'count' ? 0 : undefined}
        onChange={(value) => setEntry(entry, value)}
        problem={found && saidOf(found)}
        testId={`mould-${entry}`}
      />
    );
  };
  const calibration = problems.find((problem) => problem.path === 'calibration_percent');
  return (
    <Dialog opened onClose={onClose} title={mould === null ? 'A new mould' : mould.name}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <Stack gap="sm">
          <TextInput
            data-autofocus
            label="Name"
            value={edited.name}
            maxLength={80}
            onChange={(event) => {
              const name = event.currentTarget.value;
              setEdited((now) => ({ ...now, name }));
            }}
            data-testid="mould-name"
          />
          <SelectField showLabel label="Kind" value={edited.shape.kind} options={optionsOf<Kind>(choices.mould_shape)} onChange={setKind} testId="mould-kind" />
          <div className={classes.three}>{FIELDS[edited.shape.kind].map(({ entry, label, unit }) => field(entry, label, unit))}</div>
          <NumberField
            showLabel
            label="It really takes, of what it measures"
            value={edited.calibration_percent}
            unit="%"
            step={1}
            format={(value) => formatNumber(value, 1, 0)}
            parse={parseNumber}
            unread={unread.calibration}
            onUnread={(text) => setUnread((now) => ({ ...now, calibration: text ?? undefined }))}
            onChange={(value) => setEdited((now) => ({ ...now, calibration_percent: value ?? 100 }))}
            problem={calibration && saidOf(calibration)}
          />
          <p className="muted" style={{ margin: 0 }}>
            {check.data
              ? `It takes ${formatNumber(check.data.capacity_ml, 0)} mL to the rim.`
              : 'Measure it inside, wall to wall. Batches you make improve what it really takes.'}
          </p>
          <Group justify="flex-end">
            <Button onClick={onClose}>Not now</Button>
            <Button type="submit" variant="filled" disabled={edited.name.trim() === '' || check.data === undefined} data-testid="keep-mould">
              Keep this mould
            </Button>
          </Group>
        </Stack>
      </form>
    </Dialog>
  );
}
