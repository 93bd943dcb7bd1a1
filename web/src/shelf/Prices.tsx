import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import { answered, api } from '../api/client';
import { useOilsAndMaterials, usePrices } from '../api/queries';
import { NumberField } from '../design/NumberField';
import { Panel } from '../design/Panel';
import { PickOne } from '../design/PickOne';
import { formatNumber, parseNumber } from '../design/quantity';
import { useTellFailure } from '../app/showFailure';
import classes from './Shelf.module.css';

/** What oils cost per kg; swaps, solves and trials calculate with it. */
export function Prices() {
  const oils = useOilsAndMaterials();
  const { data: prices = {} } = usePrices();
  const [fresh, setFresh] = useState<string[]>([]);
  const [typed, setTyped] = useState<Record<string, number | null>>({});
  const [unread, setUnread] = useState<Record<string, string>>({});
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const shown = oils.filter((oil) => oil.id in prices || oil.id in typed || fresh.includes(oil.id));
  // One save after the other, so that the last one typed is the one that is kept.
  const line = useRef(Promise.resolve());
  const keep = (oil: string, perKg: number | null) => {
    setTyped((now) => ({ ...now, [oil]: perKg }));
    line.current = line.current.then(async () => {
      try {
        const all = await answered(
          api.PUT('/api/prices/{oil_id}', { params: { path: { oil_id: oil } }, body: { per_kg: perKg } }),
        );
        client.setQueryData(['prices'], all);
        for (const key of ['swap', 'compare', 'cost']) await client.invalidateQueries({ queryKey: [key] });
      } catch (error) {
        setTyped((now) => Object.fromEntries(Object.entries(now).filter(([id]) => id !== oil)));
        tellFailure(error);
      }
    });
  };
  return (
    <Panel title="Prices per kg" aside="landed, in your own currency; empty forgets one">
      <PickOne
        label="Add a price"
        choices={oils
          .filter((oil) => !shown.includes(oil))
          .map((oil) => ({ id: oil.id, name: oil.name, synonyms: oil.synonyms, tag: '', about: oil.jobs }))}
        onPick={(oil) => setFresh((now) => [...now, oil])}
        testId="add-price"
      />
      <ul className={classes.prices} data-testid="prices">
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
              unread={unread[oil.id]}
              onUnread={(text) =>
                setUnread((now) => {
                  const others = Object.entries(now).filter(([id]) => id !== oil.id);
                  return Object.fromEntries(text === null ? others : [...others, [oil.id, text]]);
                })
              }
              onChange={(value) => keep(oil.id, value)}
              testId={`price-${oil.id}`}
            />
          </li>
        ))}
      </ul>
    </Panel>
  );
}
