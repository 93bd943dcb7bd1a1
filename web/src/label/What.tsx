import { SegmentedControl } from '@mantine/core';
import { useState } from 'react';

import type { LabelDesign } from '../api/types';
import { shortDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import classes from './Label.module.css';
import { useLabel } from './LabelContext';

export const STYLES: { value: LabelDesign['style']; label: string; about: string }[] = [
  { value: 'soap', label: 'as soap', about: 'names of the soaps, with glycerin, free oils and the water that is left' },
  { value: 'poured', label: 'as poured', about: 'oils, water and lye as they went in' },
  { value: 'inci', label: 'INCI', about: 'as soap, in the names of the nomenclature' },
];

/** What is in a bar, by weight; each line says how it comes about. */
export function What() {
  const { view, draft, change } = useLabel();
  const [open, setOpen] = useState<string | null>(null);
  const { style } = draft.design;
  const lines = view.lists[style] ?? [];
  const most = Math.max(...lines.map((line) => line.percent), 1);
  const chosen = STYLES.find((one) => one.value === style);
  return (
    <Panel title="What is in it">
      <SegmentedControl fullWidth value={style} onChange={(next) => change({ style: next as LabelDesign['style'] })} data={STYLES.map(({ value, label }) => ({ value, label }))} aria-label="Style of the ingredient list" data-testid="label-style" />
      <p className={classes.about}>
        {chosen?.about}
        {style !== 'poured' && view.last_sale !== null && view.bar_g !== null && (
          <>
            ; g in a bar of {formatNumber(view.bar_g, 0)} g on {shortDate(view.last_sale)}
          </>
        )}
        {style === 'poured' && '; g in the batter of one bar'}. Estimates.
      </p>
      <ol className={classes.lines} data-testid="ingredients">
        {lines.map((line) => (
          <li key={line.name}>
            <button type="button" className={classes.line} aria-expanded={open === line.name} onClick={() => setOpen(open === line.name ? null : line.name)}>
              <span className={classes.ingredient}>
                {line.name}
                {line.is_colour && <small> colour</small>}
              </span>
              <span className={classes.scale} aria-hidden="true">
                <i style={{ width: `${(100 * line.percent) / most}%` }} />
              </span>
              <b>{formatNumber(line.grams, line.grams < 10 ? 2 : 1)}</b>
            </button>
            {open === line.name && (
              <p className={classes.why}>
                {formatNumber(line.percent, 2)} %. In the whole batch: <Sentence>{line.why}</Sentence>
              </p>
            )}
          </li>
        ))}
      </ol>
      {lines.length === 0 && <p className="muted">Nothing can be listed: the batch cannot be calculated.</p>}
      {view.printed.filter((one, i, all) => all.findIndex((other) => other.text === one.text) === i).map((one) => (
        <p key={one.language} className={classes.printed} lang={one.language} data-testid={`printed-${one.language}`}>
          {one.text}
        </p>
      ))}
    </Panel>
  );
}
