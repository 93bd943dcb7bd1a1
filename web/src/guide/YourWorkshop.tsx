import { Switch } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';

import { keyCaps, useOffered } from '../app/commands';
import { useSettings } from '../app/settings';
import { Panel } from '../design/Panel';
import classes from './Guide.module.css';
import { GuideHead } from './GuideHead';
import { SchoolChoices } from './SchoolChoices';
import { WorkshopSettings } from './WorkshopSettings';

/** How this workshop works: what it has, what it chose where makers differ, and the keys. */
export function YourWorkshop() {
  const { letterShortcuts, setLetterShortcuts } = useSettings();
  const keyed = useOffered().filter((command) => command.keys !== undefined);
  useDocumentTitle('Your workshop · Sapolin');
  return (
    <div className={classes.page}>
      <GuideHead>Your workshop</GuideHead>
      <div className={classes.columns}>
        <div className={classes.side}>
          <SchoolChoices />
        </div>
        <div className={classes.side}>
          <section aria-label="What it has">
            <WorkshopSettings />
          </section>
          <Panel title="Keys">
            <dl className={`${classes.terms} ${classes.keys}`}>
              {keyed.map((command) => (
                <div key={command.id}>
                  <dt>{command.label}</dt>
                  <dd>
                    {keyCaps(command.keys ?? '').map((cap) => (
                      <kbd key={cap}>{cap}</kbd>
                    ))}
                  </dd>
                </div>
              ))}
            </dl>
            <p className="muted">Each screen has more: press ? on it.</p>
            <Switch checked={letterShortcuts} onChange={(event) => setLetterShortcuts(event.currentTarget.checked)} label="Single-key shortcuts (A, ?)" />
          </Panel>
        </div>
      </div>
    </div>
  );
}
