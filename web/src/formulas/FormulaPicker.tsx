import { Button, Combobox, useCombobox } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState, type ReactNode } from 'react';

import { useFormulas } from '../api/queries';
import type { FormulaSummary } from '../api/types';

const QUIET_MS = 80;
const MOST = 12;

interface Other {
  value: string;
  label: string;
  group: string;
}

interface FormulaPickerProps {
  /** What the button says. */
  children: ReactNode;
  testId: string;
  variant?: 'filled' | 'default';
  /** What cannot be chosen. */
  without?: readonly string[];
  /** Only what can be calculated. */
  complete?: boolean;
  /** Pastes alone that can be mixed. */
  pastes?: boolean;
  /** What can be chosen besides, shown before anything is typed. */
  others?: Other[];
  onPick: (id: string) => void;
}

/** A button that opens a search for a formula, asked of the server: there may be thousands. */
export function FormulaPicker({ children, testId, variant = 'default', without = [], complete = false, pastes = false, others = [], onPick }: FormulaPickerProps) {
  const [words, setWords] = useState('');
  const [settled] = useDebouncedValue(words, QUIET_MS);
  const combobox = useCombobox({
    onDropdownOpen: () => combobox.focusSearchInput(),
    onDropdownClose: () => {
      combobox.resetSelectedOption();
      setWords('');
    },
  });
  const { data } = useFormulas({ search: settled, limit: MOST, can_be_mixed: pastes, ...(complete && { state: 'complete' }) });
  const found = (data?.formulas ?? []).filter((formula) => !without.includes(formula.id));
  const offered = words === '' ? others.filter((other) => !without.includes(other.value)) : [];
  const groups = [...new Set(offered.map((other) => other.group))];
  const more = (data?.total ?? 0) - (data?.formulas.length ?? 0);
  return (
    <Combobox
      store={combobox}
      width={320}
      position="bottom-end"
      onOptionSubmit={(id) => {
        onPick(id);
        combobox.closeDropdown();
      }}
    >
      <Combobox.Target withAriaAttributes={false}>
        <Button variant={variant} onClick={() => combobox.toggleDropdown()} data-testid={testId}>
          {children}
        </Button>
      </Combobox.Target>
      <Combobox.Dropdown>
        <Combobox.Search
          value={words}
          onChange={(event) => setWords(event.currentTarget.value)}
          placeholder="Search formulas"
          aria-label="Search formulas"
        />
        <Combobox.Options mah={380} style={{ overflowY: 'auto' }}>
          {groups.map((group) => (
            <Combobox.Group key={group} label={group}>
              {offered
                .filter((other) => other.group === group)
                .map((other) => (
                  <Combobox.Option key={other.value} value={other.value}>
                    {other.label}
                  </Combobox.Option>
                ))}
            </Combobox.Group>
          ))}
          <Combobox.Group label="Formulas">
            {found.map((formula: FormulaSummary) => (
              <Combobox.Option key={formula.id} value={formula.id}>
                {formula.name}
              </Combobox.Option>
            ))}
          </Combobox.Group>
          {found.length + offered.length === 0 && <Combobox.Empty>Nothing by that name</Combobox.Empty>}
          {more > 0 && <Combobox.Footer>{more} more: type to find them</Combobox.Footer>}
        </Combobox.Options>
      </Combobox.Dropdown>
    </Combobox>
  );
}
