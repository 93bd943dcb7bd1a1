import { Menu } from '@mantine/core';
import { screen, waitFor } from '@testing-library/react';
import { useState } from 'react';
import { describe, expect, it, vi } from 'vitest';

import { show } from '../testing/show';
import { Dialog } from './Dialog';
import { MenuButton } from './MenuButton';

describe('a menu', () => {
  const more = () => screen.getByRole('button', { name: 'More' });
  const shown = async () => {
    const archive = vi.fn();
    const { user } = await show(
      <MenuButton button={<button type="button">More</button>}>
        <Menu.Item onClick={archive}>Archive</Menu.Item>
      </MenuButton>,
    );
    return { user, archive };
  };

  it('is announced before it is made, and opened by its first press', async () => {
    const { user, archive } = await shown();
    expect(more().getAttribute('aria-haspopup')).toBe('menu');
    expect(more().getAttribute('aria-expanded')).toBe('false');
    await user.click(more());
    expect(more().getAttribute('aria-expanded')).toBe('true');
    await user.click(await screen.findByRole('menuitem', { name: 'Archive' }));
    expect(archive).toHaveBeenCalledOnce();
    await waitFor(() => expect(screen.queryByRole('menuitem')).toBeNull());
    await user.click(more());
    await screen.findByRole('menuitem', { name: 'Archive' });
  });

  it('is worked by the keyboard, and gives the focus back to its button each time', async () => {
    const { user } = await shown();
    for (let time = 0; time < 2; time += 1) {
      more().focus();
      await user.keyboard('{Enter}');
      await screen.findByRole('menuitem', { name: 'Archive' });
      await user.keyboard('{Escape}');
      await waitFor(() => expect(more().getAttribute('aria-expanded')).toBe('false'));
      await waitFor(() => expect(document.activeElement).toBe(more()));
    }
  });
});

describe('a dialog', () => {
  function Asking() {
    const [opened, setOpened] = useState(false);
    return (
      <>
        <button type="button" onClick={() => setOpened(true)}>
          Ask
        </button>
        <Dialog opened={opened} onClose={() => setOpened(false)} title="Sure?">
          <button type="button">Yes</button>
        </Dialog>
      </>
    );
  }

  it('opens whenever it is asked to, and gives the focus back', async () => {
    const { user } = await show(<Asking />);
    expect(screen.queryByRole('dialog')).toBeNull();
    for (let time = 0; time < 2; time += 1) {
      await user.click(screen.getByRole('button', { name: 'Ask' }));
      await screen.findByRole('dialog', { name: 'Sure?' });
      await user.keyboard('{Escape}');
      await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
      await waitFor(() => expect(document.activeElement).toBe(screen.getByRole('button', { name: 'Ask' })));
    }
  });
});
