import { useCallback } from 'react';

import { useTemperature } from '../design/temperature';

/** Where the printed sheet of a batch is, with temperatures in the maker's unit. */
export function useSheetAddress(batchId: string) {
  const { letter } = useTemperature();
  return useCallback(
    (form: 'pdf' | 'md' | 'csv', paper: 'a4' | 'letter' = 'a4') => {
      const asked = { pdf: `?temperature=${letter}&paper=${paper}`, md: `?temperature=${letter}`, csv: '' }[form];
      return `/api/batches/${batchId}/sheet.${form}${asked}`;
    },
    [batchId, letter],
  );
}
