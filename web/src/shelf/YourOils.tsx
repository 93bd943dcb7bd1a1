import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import { answered, api } from '../api/client';
import { useOilNotes, useOilsAndMaterials, usePrices } from '../api/queries';
import type { OilNote } from '../api/types';
import { NumberField } from '../design/NumberField';
import { Panel } from '../design/Panel';
import { PickOne } from '../design/PickOne';
import { formatNumber, parseNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { useWeights } from '../design/units';
import { useTellFailure } from '../app/showFailure';
import classes from './Shelf.module.css';

const LIKINGS: { value: NonNullable<OilNote['liking']>; label: string }[] = [
  { value: '', label: 'as any' },
  { value: 'favourite', label: 'favourite' },
  { value: 'never', label: 'never' },
];
const NOTHING: OilNote = { liking: '', on_hand_g: null, most_percent: null };

/** What the oils of the workshop cost, how much is left of them and how they are liked; swaps and solves go by it. */
export function YourOils() {
  const oils = useOilsAndMaterials();
  const weights = useWeights();
  const { data: prices = {} } = usePrices();
  const { data: notes = {} } = useOilNotes();
  const [fresh, setFresh] = useState<string[]>([]);
  const [typed, setTyped] = useState<Record<string, number | null>>({});
  const [unread, setUnread] = useState<Record<string, string>>({});
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const shown = oils.filter((oil) => oil.id in prices || oil.id in notes || oil.id in typed || fresh.includes(oil.id));
  // One save after the other, so that the last one typed is the one that is kept.
  const line = useRef(Promise.resolve());
  const keep = (oil: string, perKg: number | null) => {
    setTyped((now) => ({ ...now, [oil]: perKg }));
    line.current = line.current.then(async () => {
      const was = (client.getQueryData<Record<string, number>>(['prices']) ?? prices)[oil] ?? null;
      try {
        const all = await answered(
          api.PUT('/api/prices/{oil_id}', { params: { path: { oil_id: oil } }, body: { per_kg: perKg, was } }),
        );
        client.setQueryData(['prices'], all);
        for (const key of ['swap', 'compare', 'cost']) await client.invalidateQueries({ queryKey: [key] });
      } catch (error) {
        setTyped((now) => Object.fromEntries(Object.entries(now).filter(([id]) => id !== oil)));
        await client.invalidateQueries({ queryKey: ['prices'] });
        tellFailure(error);
      }
    });
  };
  // Notes as the server has them, of oils whose changes are under way.
  const onServer = useRef(new Map<string, OilNote>());
  const note = (oil: string, change: Partial<OilNote>) => {
    const before = client.getQueryData<Record<string, OilNote>>(['oil-notes']) ?? notes;
    const next = { ...NOTHING, ...before[oil], ...change };
    if (!onServer.current.has(oil)) onServer.current.set(oil, before[oil] ?? NOTHING);
    client.setQueryData(['oil-notes'], { ...before, [oil]: next });
    line.current = line.current.then(async () => {
      try {
        const was = onServer.current.get(oil);
        const all = await answered(api.PUT('/api/oil-notes/{oil_id}', { params: { path: { oil_id: oil } }, body: { ...next, was } }));
        const isLast = client.getQueryData<Record<string, OilNote>>(['oil-notes'])?.[oil] === next;
        if (isLast) onServer.current.delete(oil);
        else onServer.current.set(oil, all[oil] ?? NOTHING);
        client.setQueryData(['oil-notes'], all);
        setFresh((now) => (now.includes(oil) ? now : [...now, oil]));
        await client.invalidateQueries({ queryKey: ['swap'] });
      } catch (error) {
        onServer.current.delete(oil);
        await client.invalidateQueries({ queryKey: ['oil-notes'] });
        tellFailure(error);
      }
    });
  };
  const unreadOf = (key: string) => ({
    unread: unread[key],
    onUnread: (text: string | null) =>
      setUnread((now) => {
        const others = Object.entries(now).filter(([id]) => id !== key);
        return Object.fromEntries(text === null ? others : [...others, [key, text]]);
      }),
  });
  return (
    <Panel title="Your oils" aside="swaps and solves go by it and by the shelf; empty forgets">
      <PickOne
        label="Add an oil"
        choices={oils
          .filter((oil) => !shown.includes(oil))
          .map((oil) => ({ id: oil.id, name: oil.name, synonyms: oil.synonyms, tag: '', about: oil.jobs }))}
        onPick={(oil) => setFresh((now) => [...now, oil])}
        testId="add-price"
      />
      <ul className={classes.prices} data-testid="prices">
        {shown.length > 0 && (
          <li className={classes.oilsHead} aria-hidden>
            <span />
            <span>price per kg</span>
            <span>free, by its lots</span>
            <span>at most</span>
            <span>how you use it</span>
          </li>
        )}
        {shown.map((oil) => (
          <li key={oil.id}>
            <span>{oil.name}</span>
            <NumberField
              label={`${oil.name}, price per kg`}
              value={(oil.id in typed ? typed[oil.id] : prices[oil.id]) ?? null}
              unit="/kg"
              step={0.1}
              format={(value) => formatNumber(value, 2)}
              parse={parseNumber}
              {...unreadOf(`price:${oil.id}`)}
              onChange={(value) => keep(oil.id, value)}
              testId={`price-${oil.id}`}
            />
            <span className={classes.free} data-testid={`hand-${oil.id}`}>{notes[oil.id]?.on_hand_g == null ? 'no lot' : weights.tell(notes[oil.id]?.on_hand_g ?? 0)}</span>
            <NumberField
              label={`${oil.name}, at most`}
              value={notes[oil.id]?.most_percent ?? null}
              unit="%"
              step={1}
              format={(value) => formatNumber(value, 1, 0)}
              parse={parseNumber}
              {...unreadOf(`most:${oil.id}`)}
              onChange={(most_percent) => note(oil.id, { most_percent })}
              testId={`most-${oil.id}`}
            />
            <SelectField
              label={`${oil.name}, how you use it`}
              value={notes[oil.id]?.liking ?? ''}
              options={LIKINGS}
              onChange={(liking) => note(oil.id, { liking })}
              testId={`liking-${oil.id}`}
            />
          </li>
        ))}
      </ul>
    </Panel>
  );
}
