import { Drawer, Modal, type DrawerProps, type ModalProps } from '@mantine/core';
import { useDeferredValue, useState } from 'react';

/**
 * Whether it is open, null until it was opened for the first time: closed, it costs a slow phone as much as an open one.
 * It is there, closed, for one drawing before it opens, so that the focus comes back to where it was.
 */
function useOpened(opened: boolean): boolean | null {
  const [wasOpened, setWasOpened] = useState(opened);
  const later = useDeferredValue(opened);
  if (opened && !wasOpened) setWasOpened(true);
  return opened || wasOpened ? opened && later : null;
}

/** A dialog in the middle of the screen, made when it is first opened. */
export function Dialog(props: ModalProps) {
  const opened = useOpened(props.opened);
  return opened === null ? null : <Modal {...props} opened={opened} />;
}

/** A sheet at the side of the screen, made when it is first opened. */
export function SideSheet(props: DrawerProps) {
  const opened = useOpened(props.opened);
  return opened === null ? null : <Drawer {...props} opened={opened} />;
}
