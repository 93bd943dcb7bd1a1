import { Menu, type MenuDropdownProps, type MenuProps } from '@mantine/core';
import { cloneElement, type ReactElement, type ReactNode, type Ref } from 'react';

import { useOnPress } from './useOnPress';

interface ButtonProps {
  ref?: Ref<HTMLButtonElement>;
  onClick?: () => void;
  'aria-haspopup'?: 'menu';
  'aria-expanded'?: boolean;
}

interface MenuButtonProps extends Omit<MenuProps, 'children' | 'opened' | 'onChange' | 'defaultOpened'> {
  /** The button, with its words and name. */
  button: ReactElement<ButtonProps>;
  dropdown?: MenuDropdownProps;
  /** What can be chosen: `Menu.Item` and the like. */
  children: ReactNode;
}

/** A button that opens a menu. */
export function MenuButton({ button, dropdown, children, ...menu }: MenuButtonProps) {
  const { isWanted, want, opened, setOpened, own } = useOnPress();
  if (!isWanted) return cloneElement(button, { onClick: want, 'aria-haspopup': 'menu', 'aria-expanded': false });
  return (
    <Menu {...menu} opened={opened} onChange={setOpened}>
      <Menu.Target>{cloneElement(button, { ref: own })}</Menu.Target>
      <Menu.Dropdown {...dropdown}>{children}</Menu.Dropdown>
    </Menu>
  );
}
