import { useIsLimited } from '../api/queries';
import { Stages } from '../design/Stages';

/** The stages of a batch. Make day is full screen, so it has only a way back. */
export function BatchStages({ batchId, isBegun }: { batchId: string; isBegun: boolean }) {
  const at = `/batches/${batchId}`;
  const isLimited = useIsLimited();
  return (
    <Stages
      label="Stages of the batch"
      stages={[
        isLimited ? { to: `${at}/sheet`, label: 'Sheet' } : { to: at, label: 'Plan', end: true },
        { to: `${at}/make`, label: 'Make' },
        ...(isBegun
          ? [
              { to: `${at}/cure`, label: 'Cure' },
              { to: `${at}/tests`, label: 'Tests' },
              ...(isLimited ? [] : [{ to: `${at}/label`, label: 'Label' }]),
              { to: `${at}/log`, label: 'Log' },
            ]
          : []),
      ]}
    />
  );
}
