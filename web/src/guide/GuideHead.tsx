import type { ReactNode } from 'react';

import { useHealth } from '../api/queries';
import heads from '../design/heads.module.css';
import { Stages } from '../design/Stages';

const MAIN_SCREEN_ONLY = [
  { to: '/guide/backups', label: 'Backups' },
  { to: '/guide/tablets', label: 'Tablets' },
];

/** The head of a page of the guide: its title, and the parts of the guide. */
export function GuideHead({ children }: { children: ReactNode }) {
  const device = useHealth()?.device;
  return (
    <div className={heads.top}>
      <h1>{children}</h1>
      <Stages
        label="Parts of the guide"
        stages={[
          { to: '/guide', label: 'Why', end: true },
          { to: '/guide/faults', label: 'Fault finder' },
          { to: '/guide/practice', label: 'Practice' },
          { to: '/guide/words', label: 'Words' },
          { to: '/guide/safety', label: 'Safety' },
          ...(device?.reach === 'make_and_rack' ? [] : [{ to: '/guide/workshop', label: 'Your workshop' }]),
          ...(device?.kind === 'paired' ? [] : MAIN_SCREEN_ONLY),
        ]}
      />
    </div>
  );
}
