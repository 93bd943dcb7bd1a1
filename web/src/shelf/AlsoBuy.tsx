import { Button, Select } from '@mantine/core';
import { useState } from 'react';

import type { Buying } from '../api/types';
import { WeightAmount } from '../cure/Amount';
import { EMPTY } from '../cure/typed';
import classes from './Buying.module.css';
import { useAlsoBuy } from './useAlsoBuy';
import { useStockChoices } from './useStockChoices';

/** Something to buy beside what batches are short of; kept with the workshop. */
export function AlsoBuy({ needs }: { needs: Buying['needs'] }) {
  const choices = useStockChoices();
  const { now, keep, isKeeping } = useAlsoBuy(needs);
  const [material, setMaterial] = useState<string | null>(null);
  const [grams, setGrams] = useState(EMPTY);
  const add = async () => {
    await keep([...now.filter((one) => one.material !== material), { material: material ?? '', grams: grams.value ?? 0 }]);
    setMaterial(null);
    setGrams(EMPTY);
  };
  return (
    <div className={classes.also}>
      <Select label="Buy something else too" data={choices} value={material} onChange={setMaterial} searchable clearable nothingFoundMessage="Nothing by that name" data-testid="also-material" />
      <div className={classes.alsoAmount}>
        <WeightAmount label="How much" value={grams} onChange={setGrams} testId="also-grams" />
        <Button disabled={material === null || grams.value === null || grams.value <= 0} loading={isKeeping} onClick={() => void add()} data-testid="also-add">
          Add it
        </Button>
      </div>
    </div>
  );
}
