import { useState } from 'react';

import { useNextTime } from '../../api/queries';
import { TabbedPanel } from '../../shared/TabbedPanel';
import { useBench } from '../BenchContext';
import { EffectsTab } from './EffectsTab';
import { ExpectTab } from './ExpectTab';
import { MixTab } from './MixTab';
import { NotesTab } from './NotesTab';
import { ReadingsTab } from './ReadingsTab';
import { Remarks } from './Remarks';
import { TradesTab } from './TradesTab';

/** What to expect of the bar beside its tracks, and in words what stands out. */
export function BarPanel() {
  const { draft, live } = useBench();
  const nextTime = useNextTime(draft.record.id);
  const [tab, setTab] = useState('expect');
  const makesPaste = live.figures?.paste != null;
  return (
    <TabbedPanel
      title={makesPaste ? 'Paste' : 'Bar'}
      yieldsTo={230}
      selected={tab === 'mix' && !makesPaste ? 'expect' : tab}
      onSelect={setTab}
      tabs={[
        { id: 'expect', label: makesPaste ? 'It holds' : 'To expect', content: <ExpectTab /> },
        ...(makesPaste ? [{ id: 'mix', label: 'Mix', content: <MixTab /> }] : []),
        { id: 'effects', label: 'Effects', count: live.figures?.modifiers.length, content: <EffectsTab /> },
        { id: 'trades', label: 'Trades', content: <TradesTab /> },
        { id: 'readings', label: 'Readings', content: <ReadingsTab /> },
        { id: 'notes', label: draft.formula.notes || nextTime.length > 0 ? 'Notes •' : 'Notes', content: <NotesTab /> },
      ]}
    >
      {tab !== 'notes' && tab !== 'mix' && <Remarks />}
    </TabbedPanel>
  );
}
