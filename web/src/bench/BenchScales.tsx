import { useMemo, type ReactNode } from 'react';

import type { FormulaResult } from '../api/types';
import { formatNumber } from '../design/quantity';
import { QualityScales } from '../design/scales/QualityScales';
import { useBench } from './BenchContext';
import { useTargetRangeEditing } from './TargetRangesMenu';

interface BenchScalesProps {
  reference: FormulaResult | null;
  referenceName: string | null;
  /** What today's bar is compared with, to be changed. */
  compared: ReactNode;
}

/** The quality scales, with target ranges that can be edited; from the first oil on. */
export function BenchScales({ compared, ...props }: BenchScalesProps) {
  const { live } = useBench();
  const editing = useTargetRangeEditing();
  const targetRanges = useMemo(
    () => ({
      ...editing,
      menu: (
        <>
          {compared} {compared && '· '}
          {editing.menu}
        </>
      ),
    }),
    [editing, compared],
  );
  const entered = live.preview?.entered_percent ?? null;
  const isPart = entered !== null && Math.abs(entered - 100) > 0.05;
  return (
    <QualityScales
      {...props}
      targetRanges={targetRanges}
      explained
      note={
        live.preview === null
          ? undefined
          : isPart
            ? `From the ${formatNumber(entered, 1, 0)} % entered so far, as if it were all.`
            : 'From the oils alone: the lye is still open.'
      }
    />
  );
}
