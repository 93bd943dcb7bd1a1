import { useState } from 'react';

import { TabbedPanel } from '../../design/TabbedPanel';
import { useBench } from '../BenchContext';
import { AdditivesTab } from './AdditivesTab';
import { LiquidsTab } from './LiquidsTab';
import { LyeTab } from './LyeTab';
import { ProcessTab } from './ProcessTab';
import { Weights } from './Weights';

const PROCESS_FIELDS = ['process.', 'scale_step_g', 'lye.master_percent', 'lye.purity_tolerance_percent'];

/** What goes in beside the oils, and the weights that follow. */
export function CompositionPanel() {
  const { draft, live } = useBench();
  const { formula } = draft;
  const [tab, setTab] = useState('lye');
  const troubled = (...starts: string[]) =>
    live.problems.some((problem) => !problem.is_open && starts.some((start) => problem.path.startsWith(start)));
  const processTroubled = troubled(...PROCESS_FIELDS);

  return (
    <TabbedPanel
      title="Composition"
      selected={tab}
      onSelect={setTab}
      tabs={[
        {
          id: 'lye',
          label: 'Lye',
          troubled: troubled('lye', 'superfat', 'water', 'dilution') && !processTroubled,
          content: <LyeTab />,
        },
        {
          id: 'liquids',
          label: 'Liquids',
          count: formula.liquids.length,
          troubled: troubled('liquids'),
          content: <LiquidsTab />,
        },
        {
          id: 'additives',
          label: 'Additives',
          count: formula.additives.length,
          troubled: troubled('additives'),
          content: <AdditivesTab />,
        },
        { id: 'process', label: 'Process', troubled: processTroubled, content: <ProcessTab /> },
      ]}
    >
      <Weights />
    </TabbedPanel>
  );
}
