import { useState } from 'react';

import { useNextTime } from '../../api/queries';
import { useWorkshop } from '../../api/workshop';
import { TabbedPanel } from '../../design/TabbedPanel';
import { useBench } from '../BenchContext';
import { EffectsTab } from './AdjustmentsTab';
import { ExpectTab } from './ExpectTab';
import { MixTab } from './MixTab';
import { NotesTab } from './NotesTab';
import { IndicesTab } from './IndicesTab';
import { TradesTab } from './TradesTab';

/** What to expect of the bar beside its quality scales, and in words what to know. */
export function BarPanel() {
  const { draft, live } = useBench();
  const nextTime = useNextTime(draft.record.id);
  const place = useWorkshop()?.schools.indices ?? 'secondary';
  const [picked, setTab] = useState<string | null>(null);
  const tab = picked ?? (place === 'main' ? 'indices' : 'expect');
  const makesPaste = live.result?.paste != null;
  return (
    <TabbedPanel
      title={makesPaste ? 'Paste' : 'Bar'}
      selected={(tab === 'mix' && !makesPaste) || (tab === 'indices' && place === 'hidden') ? 'expect' : tab}
      onSelect={setTab}
      tabs={[
        { id: 'expect', label: makesPaste ? 'It holds' : 'To expect', content: <ExpectTab /> },
        ...(makesPaste ? [{ id: 'mix', label: 'Mix', content: <MixTab /> }] : []),
        { id: 'effects', label: 'Effects', count: live.result?.adjustments.length, content: <EffectsTab /> },
        { id: 'trades', label: 'Trades', content: <TradesTab /> },
        ...(place === 'hidden' ? [] : [{ id: 'indices', label: 'Indices', content: <IndicesTab /> }]),
        { id: 'notes', label: draft.formula.notes || nextTime.length > 0 ? 'Notes •' : 'Notes', content: <NotesTab /> },
      ]}
    />
  );
}
