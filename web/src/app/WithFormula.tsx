import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { useParams } from 'react-router';

import { answered, api } from '../api/client';
import { at } from '../api/queries';
import type { FormulaRecord } from '../api/types';
import { Sliced } from '../design/Later';
import { Missing } from './Missing';
import { Pending } from './Pending';

interface WithFormulaProps {
  /** Whether all else that is drawn with the formula is here. */
  isReady?: boolean;
  children: (record: FormulaRecord) => ReactNode;
}

/** The formula that the address names, read anew whenever the screen opens; or why it cannot be worked on. */
export function WithFormula({ isReady = true, children }: WithFormulaProps) {
  const { formulaId = '' } = useParams();
  const { data, error, isFetchedAfterMount } = useQuery({
    queryKey: ['formula', formulaId],
    queryFn: () => answered(api.GET('/api/formulas/{formula_id}', at(formulaId))),
    // From the first answer on, the screen owns what it shows.
    refetchOnMount: 'always',
    refetchOnReconnect: false,
  });
  if (!isFetchedAfterMount) return <Pending />;
  if (error !== null) return <Missing title="This formula cannot be opened" message={error.message} />;
  if (data === undefined || !isReady) return <Pending />;
  if (data.archived_at !== null) {
    return <Missing title="This formula has been archived" message="Restore it from the list of formulas to go on." />;
  }
  return <Sliced before={<Pending />}>{children(data)}</Sliced>;
}
