import { Button } from '@mantine/core';

import type { Diagnostic } from '../api/types';
import { Advice, Sentence } from '../design/Sentence';
import classes from './Cure.module.css';

interface AskedProps {
  problem: Diagnostic | null;
  /** It is right as it was entered. */
  onSure?: () => void;
  onOffer?: (value: number) => void;
}

/** Why something was not recorded, with what can be answered. */
export function Asked({ problem, onSure, onOffer }: AskedProps) {
  if (problem === null) return null;
  return (
    <div className={classes.asked} role="alert" data-testid="asked">
      <p>
        <Advice of={problem} />
      </p>
      <div className={classes.row}>
        {onOffer &&
          problem.offers.map((offer) => (
            <Button key={offer.value} onClick={() => onOffer(offer.value)}>
              It is&nbsp;<Sentence>{offer.label}</Sentence>
            </Button>
          ))}
        {problem.is_doubt && onSure && (
          <Button onClick={onSure} data-testid="sure">
            It is right: record it
          </Button>
        )}
      </div>
    </div>
  );
}
