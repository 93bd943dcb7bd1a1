import { Kbd, Switch, Table } from '@mantine/core';

import { Dialog } from '../design/Dialog';
import { keyCaps, useOffered } from './commands';
import { useSettings } from './settings';

/** Every shortcut of the present screen. */
export function ShortcutsSheet({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const commands = useOffered();
  const { letterShortcuts, setLetterShortcuts } = useSettings();
  const keyed = commands.filter((command) => command.keys !== undefined);
  const groups = [...new Set(keyed.map((command) => command.group))];
  return (
    <Dialog opened={opened} onClose={onClose} title="Keyboard" size="md" closeButtonProps={{ 'aria-label': 'Close' }}>
      {groups.map((group) => (
        <Table key={group} mb="md">
          <Table.Thead>
            <Table.Tr>
              <Table.Th colSpan={2}>{group}</Table.Th>
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody>
            {keyed
              .filter((command) => command.group === group)
              .map((command) => (
                <Table.Tr key={command.id}>
                  <Table.Td>{command.label}</Table.Td>
                  <Table.Td ta="right">
                    {keyCaps(command.keys ?? '').map((cap) => (
                      <Kbd key={cap} ml={4}>
                        {cap}
                      </Kbd>
                    ))}
                  </Table.Td>
                </Table.Tr>
              ))}
          </Table.Tbody>
        </Table>
      ))}
      <Switch
        checked={letterShortcuts}
        onChange={(event) => setLetterShortcuts(event.currentTarget.checked)}
        label="Single-key shortcuts (A, ?)"
      />
    </Dialog>
  );
}
