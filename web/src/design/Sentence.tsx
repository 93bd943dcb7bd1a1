import { Fragment } from 'react';

import type { Diagnostic, Text } from '../api/types';
import { useShown } from './units';

/** A text of the server in the maker's units. */
export function Sentence({ children }: { children: Text | string | undefined }) {
  const shown = useShown();
  return <>{children === undefined ? null : shown(children)}</>;
}

/** What is worth saying: what it is, in bold; why it matters, and what to do. */
export function Advice({ of: { message, reason, remedy } }: { of: Diagnostic }) {
  return (
    <>
      <strong><Sentence>{message}</Sentence></strong>
      {[reason, remedy].map((text, i) => text.length > 0 && <Fragment key={i}> <Sentence>{text}</Sentence></Fragment>)}
    </>
  );
}
