import { Button } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';

import { useSafetySheet } from '../api/queries';
import { Pending } from '../app/Pending';
import columns from '../design/columns.module.css';
import { Panel } from '../design/Panel';
import { EmergencyNumbers } from '../make/FirstAid';
import { GuideHead } from './GuideHead';
import classes from './Pages.module.css';

/** What lye does, what stops it, and whom to call. */
export function Safety() {
  const data = useSafetySheet();
  useDocumentTitle('Safety · Sapolin');
  if (data === undefined) return <Pending />;
  return (
    <div className={columns.page}>
      <GuideHead>Safety with lye</GuideHead>
      <p className={classes.noPrint}>
        <Button component="a" href="/api/guide/safety.pdf?page=a4" target="_blank">
          Print, A4
        </Button>{' '}
        <Button component="a" href="/api/guide/safety.pdf?page=letter" target="_blank">
          Print, Letter
        </Button>
      </p>
      <Panel title="Whom to call">
        <EmergencyNumbers />
      </Panel>
      <div className={columns.columns} style={{ marginTop: 14 }}>
        {data.map((section) => (
          <Panel key={section.id} title={section.title}>
            <ul className={classes.points}>
              {section.points.map((point) => (
                <li key={point}>{point}</li>
              ))}
            </ul>
          </Panel>
        ))}
      </div>
      <p className="muted">Local advice and local rules come first. Sapolin informs; it does not license.</p>
    </div>
  );
}
