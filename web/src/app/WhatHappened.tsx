import { Button, CopyButton } from '@mantine/core';

import { ApiFailure } from '../api/client';

/** A fault as it can be reported: when, where and what, and nothing that was typed. */
export function reportOf(error: unknown, at: Date, place: string): string {
  const said = error instanceof Error ? error.message : String(error);
  const reference = error instanceof ApiFailure && error.reference !== null ? `fault ${error.reference}, named so in the log` : 'no reference: it happened in the browser';
  return ['Sapolin: what happened', at.toISOString(), `on ${place}`, said, reference, navigator.userAgent].join('\n');
}

/** The reference of a fault, and a report of it to copy; nothing for what is no fault. */
export function WhatHappened({ error }: { error: unknown }) {
  const isFault = !(error instanceof ApiFailure) || error.reference !== null;
  if (!isFault) return null;
  return (
    <div data-testid="what-happened">
      {error instanceof ApiFailure && <p>Reference {error.reference}</p>}
      <CopyButton value={reportOf(error, new Date(), window.location.pathname)}>
        {({ copied, copy }) => <Button onClick={copy}>{copied ? 'Copied' : 'Copy what happened'}</Button>}
      </CopyButton>
    </div>
  );
}
