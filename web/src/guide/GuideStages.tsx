import { Stages } from '../design/Stages';

/** The parts of the guide. */
export function GuideStages() {
  return (
    <Stages
      label="Parts of the guide"
      stages={[
        { to: '/guide', label: 'Why', end: true },
        { to: '/guide/faults', label: 'Fault finder' },
        { to: '/guide/practice', label: 'Practice' },
        { to: '/guide/words', label: 'Words' },
        { to: '/guide/safety', label: 'Safety' },
        { to: '/guide/workshop', label: 'Your workshop' },
        { to: '/guide/backups', label: 'Backups' },
      ]}
    />
  );
}
