import { Button, Select } from '@mantine/core';
import { useState } from 'react';

import { WeightAmount } from '../cure/Amount';
import { EMPTY } from '../cure/typed';
import classes from './Buying.module.css';
import { useAlsoBuy } from './useAlsoBuy';
import { useStockChoices } from './useStockChoices';

/** Something to buy beside what batches are short of; kept with the workshop. */
export function AlsoBuy() {
  const choices = useStockChoices();
  const { put, isKeeping } = useAlsoBuy();
  const [material, setMaterial] = useState<string | null>(null);
  const [grams, setGrams] = useState(EMPTY);
  const add = async () => {
    if (material === null || grams.value === null || !(await put(material, grams.value))) return;
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
