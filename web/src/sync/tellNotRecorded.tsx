import { CopyButton } from '@mantine/core';
import { notifications } from '@mantine/notifications';

import { ApiFailure } from '../api/client';
import buttons from '../design/buttons.module.css';
import { Sentence } from '../design/Sentence';
import { saidOf } from '../design/units';
import type { Delivered } from './outbox';

/** Something that a closed tab left behind could not be recorded: it is said word for word, and can be copied. `entry` is all of
 *  it, `inShort` what a maker would write down. */
export function tellNotRecorded<A>(inShort: string, entry: unknown, delivered: Delivered<A>): void {
  if ('answer' in delivered) return;
  const { failure, isKept } = delivered;
  const problem = failure instanceof ApiFailure ? failure.problems[0] : undefined;
  notifications.show({
    title: isKept ? 'From before, and not recorded yet' : 'From before, and not recorded',
    message: (
      <>
        {inShort}: {problem === undefined ? failure.message : <Sentence>{saidOf(problem)}</Sentence>}{' '}
        {isKept ? 'It stays on this device.' : null}{' '}
        <CopyButton value={JSON.stringify(entry, null, 2)}>
          {({ copied, copy }) => (
            <button type="button" className={buttons.link} onClick={copy}>
              {copied ? 'Copied' : 'Copy it'}
            </button>
          )}
        </CopyButton>
      </>
    ),
    color: 'red',
    autoClose: false,
  });
}
