/** A number as it is being typed; `unread` keeps what could not be read. */
export interface Typed {
  value: number | null;
  unread?: string;
}

export const EMPTY: Typed = { value: null };
