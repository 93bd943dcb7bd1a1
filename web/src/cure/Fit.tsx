import { Button, SegmentedControl } from '@mantine/core';
import { useState } from 'react';

import { shortDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { Amount } from './Amount';
import { Asked } from './Asked';
import classes from './Cure.module.css';
import { EMPTY } from './typed';
import { useCuring, useEntry } from './useCure';

const SIGNS = { fit: '✓', wait: '△', unfit: '✕', untested: '○' } as const;
const ASKED = 'not tested';

/** The gate before bars are used, given or sold: pH or zap, and looks. */
export function Fit() {
  const { view } = useCuring();
  const { problem, send, clear } = useEntry();
  const [ph, setPh] = useState(EMPTY);
  const [zap, setZap] = useState(ASKED);
  const [looks, setLooks] = useState(ASKED);
  const test = view.state.fit;
  const record = async (value: number | null, sure = false) => {
    const done = await send({
      kind: 'fit_tested',
      ph: value,
      zap: zap === ASKED ? null : zap === 'it stings',
      looks_right: looks === ASKED ? null : looks === 'right',
      sure,
    });
    if (done) {
      setPh(EMPTY);
      setZap(ASKED);
      setLooks(ASKED);
    }
  };
  return (
    <Panel title="Fit to use?" aside="before any bar is used, given or sold">
      <p className={classes.fit} data-standing={view.fit} data-testid="fit" role="status">
        <b aria-hidden>{SIGNS[view.fit]}</b>
        <span>
          <Sentence>{view.fit_words}</Sentence>
          {test !== null && view.state.fit_at !== null && (
            <small>
              {shortDate(view.state.fit_at)}: {test.ph !== null && test.ph !== undefined ? `pH ${formatNumber(test.ph, 1)}` : 'no pH'}
              {test.zap != null && (test.zap ? ', stings' : ', no sting')}
              {test.looks_right != null && (test.looks_right ? ', looks right' : ', looks wrong')}
            </small>
          )}
        </span>
      </p>
      <div className={classes.fields}>
        <Amount label="pH on wet lather; 8 to 10 is usual" value={ph} onChange={(next) => { setPh(next); clear(); }} decimals={1} step={0.5} testId="ph" />
      </div>
      <div className={classes.choices}>
        <span id="zap">Zap test</span>
        <SegmentedControl aria-labelledby="zap" value={zap} onChange={setZap} data={[ASKED, 'no sting', 'it stings']} data-testid="zap" />
        <span id="looks">Looks and smell</span>
        <SegmentedControl aria-labelledby="looks" value={looks} onChange={setLooks} data={[ASKED, 'right', 'wrong']} data-testid="looks" />
      </div>
      <div className={classes.row}>
        <Button size="md" variant="filled" disabled={(ph.value === null && zap === ASKED) || ph.unread !== undefined} onClick={() => void record(ph.value)} data-testid="record-fit">
          Record the test
        </Button>
      </div>
      <Asked problem={problem} onSure={() => void record(ph.value, true)} onOffer={(value) => { setPh({ value }); void record(value, true); }} />
    </Panel>
  );
}
