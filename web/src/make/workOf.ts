import { answered, api } from '../api/client';
import type { Making, Work } from './MakeContext';

/** The making of a batch as work that goes step by step. */
export function workOf(making: Making): Work {
  const { run } = making;
  const jarG = run.record.plan.jar_g;
  return {
    ...making,
    isBatch: true,
    toPack: { pieces: jarG ? Math.ceil(run.prepared.planned.size.batter_g / jarG) : null, unit: 'jars' },
    record: () => answered(api.GET('/api/batches/{batch_id}/record', { params: { path: { batch_id: run.record.id } } })),
  };
}
