import { Button, Modal, Select, Switch, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { useOilsAndMaterials, useReference } from '../api/queries';
import type { Lot } from '../api/types';
import { Amount, WeightAmount } from '../cure/Amount';
import { Asked } from '../cure/Asked';
import { EMPTY } from '../cure/typed';
import classes from './Lots.module.css';

/** A lot comes in: what it is, how much, what was paid, what its label says. */
export function GoodsIn({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const choices = useChoices();
  const [key] = useState(() => crypto.randomUUID());
  const [material, setMaterial] = useState<string | null>(null);
  const [code, setCode] = useState('');
  const [grams, setGrams] = useState(EMPTY);
  const [price, setPrice] = useState(EMPTY);
  const [freight, setFreight] = useState(EMPTY);
  const [purity, setPurity] = useState(EMPTY);
  const [supplier, setSupplier] = useState('');
  const [supplierCode, setSupplierCode] = useState('');
  const [arrived, setArrived] = useState(() => new Date().toLocaleDateString('sv'));
  const [bestBefore, setBestBefore] = useState('');
  const [antioxidant, setAntioxidant] = useState(false);
  const kind = choices.flatMap((group) => group.items).find((one) => one.value === material)?.kind ?? 'oil';
  const keep = useMutation({
    mutationFn: (lot: Lot) => answered(api.POST('/api/stock/lots', { body: { key, lot } })),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['stock'] });
      onClose();
    },
  });
  const problem = keep.error instanceof ApiFailure ? (keep.error.problems[0] ?? null) : null;
  const isUnread = [grams, price, freight, purity].some((one) => one.unread !== undefined);
  const send = (percent = purity.value) => {
    if (material === null || grams.value === null) return;
    keep.mutate({
      code: code.trim(), material, kind, amount_g: grams.value, price: price.value, freight: freight.value ?? 0,
      supplier: supplier.trim(), supplier_code: supplierCode.trim(), arrived, best_before: bestBefore === '' ? null : bestBefore,
      purity_percent: kind === 'lye' ? percent : null, has_antioxidant: antioxidant, place: '',
    });
  };
  return (
    <Modal opened onClose={onClose} title="Goods in" size="lg">
      <Select label="What came in" data={choices} value={material} onChange={setMaterial} searchable nothingFoundMessage="Nothing by that name" data-testid="lot-material" />
      <div className={classes.fields}>
        <TextInput label="Code on its tub" value={code} maxLength={24} onChange={(event) => setCode(event.currentTarget.value)} placeholder="such as C8" data-testid="lot-code" />
        <WeightAmount label="Weight, without its tub" value={grams} onChange={setGrams} testId="lot-grams" />
        {kind === 'lye' && <Amount label="Purity, from its label" unit="%" decimals={1} value={purity} onChange={setPurity} testId="lot-purity" />}
        <Amount label="Paid for it" decimals={2} value={price} onChange={setPrice} placeholder="not known" testId="lot-price" />
        <Amount label="Its share of freight" decimals={2} value={freight} onChange={setFreight} placeholder="0" />
        <TextInput label="Came in on" type="date" value={arrived} onChange={(event) => setArrived(event.currentTarget.value)} data-testid="lot-arrived" />
        <TextInput label="Best before" type="date" value={bestBefore} onChange={(event) => setBestBefore(event.currentTarget.value)} data-testid="lot-best-before" />
        <TextInput label="Supplier" value={supplier} maxLength={80} onChange={(event) => setSupplier(event.currentTarget.value)} />
        <TextInput label="Their lot code" value={supplierCode} maxLength={60} onChange={(event) => setSupplierCode(event.currentTarget.value)} />
      </div>
      {kind === 'oil' && <Switch mt={10} label="An antioxidant is in it" checked={antioxidant} onChange={(event) => setAntioxidant(event.currentTarget.checked)} />}
      <Asked problem={problem} onOffer={(percent) => { setPurity({ value: percent }); send(percent); }} />
      {keep.error !== null && problem === null && <p role="alert">{keep.error.message}</p>}
      <Button mt={14} size="lg" fullWidth variant="filled" disabled={material === null || grams.value === null || code.trim() === '' || arrived === '' || isUnread} loading={keep.isPending} onClick={() => send()} data-testid="keep-lot">
        Put it on the shelf
      </Button>
    </Modal>
  );
}

function useChoices() {
  const oils = useOilsAndMaterials();
  const { liquids, additives, scents, colorants } = useReference();
  const of = (kind: Lot['kind'], ones: readonly { id: string; name: string }[]) => ones.map((one) => ({ value: kind === 'oil' || kind === 'lye' ? one.id : `${kind}:${one.id}`, label: one.name, kind }));
  return [
    { group: 'Oils', items: of('oil', oils) },
    { group: 'Lye', items: of('lye', [{ id: 'naoh', name: 'Sodium hydroxide (NaOH)' }, { id: 'koh', name: 'Potassium hydroxide (KOH)' }]) },
    { group: 'Liquids', items: of('liquid', liquids) },
    { group: 'Additives', items: of('additive', additives) },
    { group: 'Scents', items: of('scent', scents) },
    { group: 'Colours', items: of('colorant', colorants) },
  ];
}
