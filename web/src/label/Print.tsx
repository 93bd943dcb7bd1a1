import { Button, Popover } from '@mantine/core';
import { useState } from 'react';

import { useTellFailure } from '../app/showFailure';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber } from '../design/quantity';
import classes from './Label.module.css';
import { useLabel } from './LabelContext';

const MOST = 500;

interface PrintProps {
  /** What is on the screen is what is kept, so what prints is what is seen. */
  isSettled: boolean;
  /** Keeps a label that was never changed, before it is printed; null once it is kept. */
  keep: (() => Promise<unknown>) | null;
}

/** So many labels, or one sheet to check the printer by. */
export function Print({ isSettled, keep }: PrintProps) {
  const { view } = useLabel();
  const tellFailure = useTellFailure();
  const [count, setCount] = useState<number | null>(Math.min(Math.max(view.bars, 1), MOST));
  const [unread, setUnread] = useState<string | null>(null);
  const isCounted = unread === null && count !== null && Number.isInteger(count) && count >= 1 && count <= MOST;
  const open = async (address: string) => {
    const page = window.open('', '_blank');
    try {
      if (keep !== null) await keep();
      if (page) page.location.href = address;
    } catch (error) {
      page?.close();
      tellFailure(error);
    }
  };
  return (
    <>
      <Button disabled={!isSettled || !view.may_print} onClick={() => void open(`/api/labels/${view.batch_id}/test.pdf`)} data-testid="test-print">
        Test print with ruler
      </Button>
      <Popover position="bottom-end" trapFocus>
        <Popover.Target>
          <Button variant="filled" disabled={!isSettled || !view.may_print} data-testid="print-labels">
            Print …
          </Button>
        </Popover.Target>
        <Popover.Dropdown>
          <div className={classes.printing}>
            <NumberField
              label="Labels"
              showLabel
              value={count}
              unit=""
              step={1}
              format={(shown) => formatNumber(shown, 0, 0)}
              parse={parseNumber}
              unread={unread ?? undefined}
              onUnread={setUnread}
              onChange={setCount}
              problem={isCounted || unread !== null ? undefined : `Enter a whole number from 1 to ${MOST}.`}
              testId="label-count"
            />
            <Button variant="filled" disabled={!isCounted} onClick={() => void open(`/api/labels/${view.batch_id}/labels.pdf?count=${count ?? 1}`)} data-testid="print-now">
              Print {isCounted ? count : ''}
            </Button>
          </div>
        </Popover.Dropdown>
      </Popover>
    </>
  );
}
