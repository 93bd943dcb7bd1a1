import { Tabs } from '@mantine/core';
import type { ReactNode } from 'react';

import { Panel } from './Panel';
import classes from './TabbedPanel.module.css';

export interface PanelTab {
  id: string;
  label: string;
  /** How many entries it holds; nothing is shown for none. */
  count?: number;
  /** Something in it needs attention. */
  troubled?: boolean;
  content: ReactNode;
}

interface TabbedPanelProps {
  title: string;
  tabs: PanelTab[];
  selected: string;
  onSelect: (id: string) => void;
  /** Stands below the tabs, whichever is open. */
  children?: ReactNode;
}

/** A panel with several pages; what belongs to all of them stands below. */
export function TabbedPanel({ title, tabs, selected, onSelect, children }: TabbedPanelProps) {
  return (
    <Tabs keepMounted={false} value={selected} onChange={(id) => id !== null && onSelect(id)} variant="unstyled" className={classes.root}>
      <Panel
        title={title}
        aside={
          <Tabs.List className={classes.list} aria-label={title}>
            {tabs.map((tab) => (
              <Tabs.Tab key={tab.id} value={tab.id} className={classes.tab} data-testid={`tab-${tab.id}`}>
                {tab.label}
                {tab.count !== undefined && tab.count > 0 && <span className={classes.count}>{tab.count}</span>}
                {tab.troubled && (
                  <span className={classes.trouble} aria-label="needs attention">
                    !
                  </span>
                )}
              </Tabs.Tab>
            ))}
          </Tabs.List>
        }
      >
        {tabs.map((tab) => (
          <Tabs.Panel key={tab.id} value={tab.id} className={classes.page}>
            {tab.content}
          </Tabs.Panel>
        ))}
        {children}
      </Panel>
    </Tabs>
  );
}
