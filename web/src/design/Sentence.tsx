import { useTold } from './units';

/** A sentence of the server in the maker's units. */
export function Told({ children }: { children: string | undefined }) {
  const told = useTold();
  return <>{children === undefined ? null : told(children)}</>;
}
