import { Button, Select, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { newKey } from '../api/newKey';
import type { StockMaterial } from '../api/types';
import { Amount, WeightAmount } from '../cure/Amount';
import { Asked } from '../cure/Asked';
import { EMPTY, type Typed } from '../cure/typed';
import buttons from '../design/buttons.module.css';
import { Dialog } from '../design/Dialog';
import { useWeights } from '../design/units';
import classes from './Lots.module.css';

interface Poured {
  lotId: string;
  grams: Typed;
}

/** A tub split, two tubs poured together, a master blend, a master lye: one lot out of others. */
export function MixLots({ materials, onClose }: { materials: StockMaterial[]; onClose: () => void }) {
  const client = useQueryClient();
  const weights = useWeights();
  const [key] = useState(() => newKey());
  const [parts, setParts] = useState<Poured[]>([]);
  const [code, setCode] = useState('');
  const [name, setName] = useState('');
  const [water, setWater] = useState(EMPTY);
  const all = materials.flatMap((one) => one.lots.map((lot) => ({ one, lot })));
  const of = (lotId: string) => all.find(({ lot }) => lot.id === lotId);
  const kinds = new Set(parts.map((part) => of(part.lotId)?.one.kind));
  const isLye = kinds.size === 1 && kinds.has('lye');
  const isBlend = new Set(parts.map((part) => of(part.lotId)?.one.material)).size > 1;
  const total = parts.reduce((sum, part) => sum + (part.grams.value ?? 0), isLye ? (water.value ?? 0) : 0);
  const mix = useMutation({
    mutationFn: () =>
      answered(
        api.POST('/api/stock/mixes', {
          body: { key, mix: { code: code.trim(), name: name.trim(), place: '', water_g: isLye ? (water.value ?? 0) : 0, parts: parts.map((part) => ({ lot_id: part.lotId, grams: part.grams.value ?? 0 })) } },
        }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['stock'] });
      onClose();
    },
  });
  const problem = mix.error instanceof ApiFailure ? (mix.error.problems[0] ?? null) : null;
  const isOpen = parts.length === 0 || code.trim() === '' || parts.some((part) => part.grams.value === null) || water.unread !== undefined;
  return (
    <Dialog opened onClose={onClose} title="Mix or split" size="lg">
      <p className="muted">Pour a part of one tub into a new one, tubs of one material together, several oils into a master blend, or dry lye and water into a master lye.</p>
      <ul className={classes.notes}>
        {parts.map((part, i) => {
          const known = of(part.lotId);
          if (known === undefined) return null;
          const change = (grams: Typed) => setParts(parts.map((other, j) => (j === i ? { ...other, grams } : other)));
          return (
            <li key={part.lotId}>
              <span className={classes.poured}>
                <b>{known.lot.lot.code}</b> {known.one.name}
                <small>{known.one.kind === 'packaging' ? `${known.lot.now.in_hand_g} pcs` : weights.tell(known.lot.now.in_hand_g)} in hand</small>
              </span>
              {known.one.kind === 'packaging' ? <Amount label="Pieces" unit="pcs" value={part.grams} onChange={change} /> : <WeightAmount label="Takes" value={part.grams} onChange={change} testId={`pour-${known.lot.lot.code}`} />}
              <button type="button" className={buttons.drop} onClick={() => setParts(parts.filter((_, j) => j !== i))} aria-label={`Leave ${known.lot.lot.code} out`}>
                ×
              </button>
            </li>
          );
        })}
      </ul>
      <Select
        label="From lot"
        data={all.filter(({ lot }) => !lot.now.is_stopped && !parts.some((part) => part.lotId === lot.id)).map(({ one, lot }) => ({ value: lot.id, label: `${lot.lot.code}, ${one.name}` }))}
        value={null}
        searchable
        nothingFoundMessage="No lot by that name"
        onChange={(lotId) => lotId !== null && setParts([...parts, { lotId, grams: EMPTY }])}
        data-testid="mix-lot"
      />
      <div className={classes.fields}>
        {isLye && <WeightAmount label="Water" value={water} onChange={setWater} placeholder="0" testId="mix-water" />}
        {isBlend && <TextInput label="Name of the blend" value={name} maxLength={120} onChange={(event) => setName(event.currentTarget.value)} data-testid="mix-name" />}
        <TextInput label="Code on the new tub" value={code} maxLength={24} onChange={(event) => setCode(event.currentTarget.value)} data-testid="mix-code" />
      </div>
      {isLye && (water.value ?? 0) > 0 && <p className={classes.stopped}>Goggles and gloves on. Lye into cold water, in parts; never water into lye. It gets as hot as boiling.</p>}
      <Asked problem={problem} />
      {mix.error !== null && problem === null && <p role="alert">{mix.error.message}</p>}
      <Button mt={14} size="lg" fullWidth variant="filled" disabled={isOpen} loading={mix.isPending} onClick={() => mix.mutate()} data-testid="mix-now">
        {total > 0 && !kinds.has('packaging') ? `Into one tub: ${weights.tell(total)}` : 'Into one tub'}
      </Button>
    </Dialog>
  );
}
