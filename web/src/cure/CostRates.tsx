import { Button, TextInput } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import type { BatchCost } from '../api/types';
import { changeWorkshop } from '../api/workshop';
import { Dialog } from '../design/Dialog';
import { Refused } from '../design/Refused';
import { SelectField } from '../design/SelectField';
import { Amount } from './Amount';
import classes from './Cure.module.css';
import type { Typed } from './typed';

/** What the workshop counts beside materials; kept for every batch. */
export function CostRates({ rates, onClose }: { rates: BatchCost['rates']; onClose: () => void }) {
  const client = useQueryClient();
  const { data: stock } = useQuery({ queryKey: ['stock'], queryFn: ({ signal }) => answered(api.GET('/api/stock', { signal })) });
  const wraps = (stock?.materials ?? []).filter((one) => one.kind === 'packaging');
  const [currency, setCurrency] = useState(rates.currency);
  const [perHour, setPerHour] = useState<Typed>({ value: rates.per_hour });
  const [minutes, setMinutes] = useState<Typed>({ value: rates.minutes });
  const [after, setAfter] = useState<Typed>({ value: rates.minutes_after });
  const [energy, setEnergy] = useState<Typed>({ value: rates.energy });
  const [margin, setMargin] = useState<Typed>({ value: rates.margin_percent });
  const [wrap, setWrap] = useState(rates.packs[0]?.material ?? '');
  const [pieces, setPieces] = useState<Typed>({ value: rates.packs[0]?.pieces ?? 1 });
  const isUnread = [perHour, minutes, after, energy, margin, pieces].some((one) => one.unread !== undefined || one.value === null);
  const keep = useMutation({
    mutationFn: () =>
      changeWorkshop(
        client,
        {
          costs: {
            currency: currency.trim(), per_hour: perHour.value ?? 0, minutes: minutes.value ?? 0, minutes_after: after.value ?? 0, energy: energy.value ?? 0,
            margin_percent: margin.value ?? 0,
            packs: [...(wrap === '' ? [] : [{ material: wrap, pieces: pieces.value ?? 1 }]), ...rates.packs.slice(1)],
          },
        },
        { costs: rates },
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['cost'] });
      onClose();
    },
  });
  return (
    <Dialog opened onClose={onClose} title="Rates and margin">
      <div className={classes.rates}>
        <TextInput label="Currency" value={currency} maxLength={6} placeholder="such as €" onChange={(event) => setCurrency(event.currentTarget.value)} />
        <Amount label="An hour of work" decimals={2} value={perHour} onChange={setPerHour} testId="rate-hour" />
        <Amount label="Usual make day" unit="min" value={minutes} onChange={setMinutes} />
        <Amount label="Cutting, turning, wrapping" unit="min" value={after} onChange={setAfter} testId="rate-after" />
        <Amount label="Energy, a batch" decimals={2} value={energy} onChange={setEnergy} />
        <Amount label="Margin, of the price" unit="%" decimals={1} value={margin} onChange={setMargin} testId="rate-margin" />
        <SelectField label="What wraps a bar" showLabel value={wrap} options={[{ value: '', label: 'nothing' }, ...wraps.map((one) => ({ value: one.material, label: one.name }))]} onChange={setWrap} testId="rate-wrap" />
        {wrap !== '' && <Amount label="Pieces a bar" decimals={1} value={pieces} onChange={setPieces} />}
      </div>
      {wraps.length === 0 && <p className={classes.lead}>Packaging can be chosen once a lot of it is on the shelf.</p>}
      {keep.error !== null && <Refused error={keep.error} />}
      <Button mt={14} fullWidth variant="filled" disabled={isUnread} loading={keep.isPending} onClick={() => keep.mutate()} data-testid="keep-rates">
        Keep them
      </Button>
    </Dialog>
  );
}
