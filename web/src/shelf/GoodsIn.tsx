import { Button, Select, Switch, Textarea, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { newKey } from '../api/newKey';
import type { Lot } from '../api/types';
import { Amount, WeightAmount } from '../cure/Amount';
import { Asked } from '../cure/Asked';
import { EMPTY } from '../cure/typed';
import { Dialog } from '../design/Dialog';
import { parseNumber } from '../design/quantity';
import classes from './Lots.module.css';
import { useStockChoices } from './useStockChoices';

const PACKAGING = { group: 'Packaging', items: [{ value: 'packaging', label: 'Packaging', kind: 'packaging' as const }] };

/** A lot comes in: what it is, how much, what was paid, what its label says. */
export function GoodsIn({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const choices = [...useStockChoices(), PACKAGING];
  const [key] = useState(() => newKey());
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
  const [place, setPlace] = useState('');
  const [packaging, setPackaging] = useState('');
  const [sap, setSap] = useState(EMPTY);
  const [most, setMost] = useState(EMPTY);
  const [allergens, setAllergens] = useState('');
  const sheet = readAllergens(allergens);
  const kind = choices.flatMap((group) => group.items).find((one) => one.value === material)?.kind ?? 'oil';
  const keep = useMutation({
    mutationFn: (lot: Lot) => answered(api.POST('/api/stock/lots', { body: { key, lot } })),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['stock'] });
      onClose();
    },
  });
  const problem = keep.error instanceof ApiFailure ? (keep.error.problems[0] ?? null) : null;
  const isUnread = [grams, price, freight, purity, sap, most].some((one) => one.unread !== undefined) || (kind === 'scent' && sheet.unread.length > 0);
  const isNamed = material !== null && (kind !== 'packaging' || packaging.trim() !== '');
  const hasSheet = (kind === 'oil' && sap.value !== null) || (kind === 'scent' && (most.value !== null || Object.keys(sheet.shares).length > 0));
  const send = (percent = purity.value, sapValue = sap.value) => {
    if (material === null || grams.value === null) return;
    keep.mutate({
      code: code.trim(), material: kind === 'packaging' ? `packaging:${packaging.trim()}` : material, kind, amount_g: grams.value, price: price.value, freight: freight.value ?? 0,
      supplier: supplier.trim(), supplier_code: supplierCode.trim(), arrived, best_before: bestBefore === '' ? null : bestBefore,
      purity_percent: kind === 'lye' ? percent : null, parts: [], has_antioxidant: antioxidant, place: place.trim(),
      certificate: hasSheet ? { sap_koh_mg_per_g: kind === 'oil' ? sapValue : null, allergens_percent: kind === 'scent' ? sheet.shares : {}, most_percent: kind === 'scent' ? most.value : null, issued_for: '' } : null,
    });
  };
  return (
    <Dialog opened onClose={onClose} title="Goods in" size="lg">
      <Select label="What came in" data={choices} value={material} onChange={setMaterial} searchable nothingFoundMessage="Nothing by that name" data-testid="lot-material" />
      {kind === 'packaging' && <TextInput mt={8} label="Which packaging" value={packaging} maxLength={60} placeholder="such as kraft wrap" onChange={(event) => setPackaging(event.currentTarget.value)} data-testid="lot-packaging" />}
      <div className={classes.fields}>
        <TextInput label="Code on its tub" value={code} maxLength={24} onChange={(event) => setCode(event.currentTarget.value)} placeholder="such as C8" data-testid="lot-code" />
        {kind === 'packaging' ? <Amount label="Pieces" unit="pcs" value={grams} onChange={setGrams} testId="lot-grams" /> : <WeightAmount label="Weight, without its tub" value={grams} onChange={setGrams} testId="lot-grams" />}
        {kind === 'lye' && <Amount label="Purity, from its label" unit="%" decimals={1} value={purity} onChange={setPurity} testId="lot-purity" />}
        <Amount label="Paid for it" decimals={2} value={price} onChange={setPrice} placeholder="not known" testId="lot-price" />
        <Amount label="Its share of freight" decimals={2} value={freight} onChange={setFreight} placeholder="0" />
        <TextInput label="Came in on" type="date" value={arrived} onChange={(event) => setArrived(event.currentTarget.value)} data-testid="lot-arrived" />
        <TextInput label="Best before" type="date" value={bestBefore} onChange={(event) => setBestBefore(event.currentTarget.value)} data-testid="lot-best-before" />
        <TextInput label="Supplier" value={supplier} maxLength={80} onChange={(event) => setSupplier(event.currentTarget.value)} />
        <TextInput label="Their lot code" value={supplierCode} maxLength={60} onChange={(event) => setSupplierCode(event.currentTarget.value)} />
        <TextInput label="Where it stands" value={place} maxLength={60} onChange={(event) => setPlace(event.currentTarget.value)} />
        {kind === 'oil' && <Amount label="SAP, from a certificate" unit="mg KOH/g" decimals={1} value={sap} onChange={setSap} placeholder="none" testId="lot-sap" />}
        {kind === 'scent' && <Amount label="Most in a finished bar" unit="%" decimals={2} value={most} onChange={setMost} placeholder="from its sheet" testId="lot-most" />}
      </div>
      {kind === 'scent' && (
        <Textarea
          mt={8}
          label="Allergens from its sheet, % of the scent"
          autosize
          minRows={2}
          maxLength={4000}
          placeholder={'linalool 31.5\nlimonene 0.6'}
          value={allergens}
          onChange={(event) => setAllergens(event.currentTarget.value)}
          error={sheet.unread.length > 0 ? `Not read: ${sheet.unread.join(', ')}. Write a name and its per cent in each line.` : undefined}
          data-testid="lot-allergens"
        />
      )}
      {kind === 'oil' && <Switch mt={10} label="An antioxidant is in it" checked={antioxidant} onChange={(event) => setAntioxidant(event.currentTarget.checked)} />}
      <Asked problem={problem} onOffer={(value) => { if (kind === 'lye') { setPurity({ value }); send(value); } else { setSap({ value }); send(purity.value, value); } }} />
      {keep.error !== null && problem === null && <p role="alert">{keep.error.message}</p>}
      <Button mt={14} size="lg" fullWidth variant="filled" disabled={!isNamed || grams.value === null || code.trim() === '' || arrived === '' || isUnread} loading={keep.isPending} onClick={() => send()} data-testid="keep-lot">
        Put it on the shelf
      </Button>
    </Dialog>
  );
}

/** Names with their per cent, line by line or with commas between; what cannot be read is told, never left out. */
function readAllergens(text: string): { shares: Record<string, number>; unread: string[] } {
  const shares: Record<string, number> = {};
  const unread: string[] = [];
  for (const line of text.split(/[\n;]+/).map((one) => one.trim()).filter(Boolean)) {
    const found = /^(.*?[^\d\s:,])\s*[:,]?\s*([\d.,]+)\s*%?$/.exec(line);
    const share = found ? parseNumber(found[2] ?? '') : null;
    if (found?.[1] === undefined || share === null || !share.ok || share.value === null) unread.push(line);
    else shares[found[1].trim().toLowerCase()] = share.value;
  }
  return { shares, unread };
}
