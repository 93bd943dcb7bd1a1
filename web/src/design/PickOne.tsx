import { Combobox, useCombobox } from '@mantine/core';
import { useEffect, useState } from 'react';

import { matching, splitAmount } from './findOils';
import own from './PickOne.module.css';

interface Choice {
  id: string;
  name: string;
  synonyms: readonly string[];
  /** A word or two on the right. */
  tag: string;
  /** What it does. */
  about: string;
}

interface PickOneProps {
  label: string;
  choices: Choice[];
  /** What was picked, and the amount typed behind it (`sugar 1`, `milk 200 g`), as typed. */
  onPick: (id: string, amount: string) => void;
  testId: string;
}

/** Search a table by name or synonym and take one entry. */
export function PickOne({ label, choices, onPick, testId }: PickOneProps) {
  const [text, setText] = useState('');
  const { words, amount } = splitAmount(text);
  const combobox = useCombobox({ onDropdownClose: () => combobox.resetSelectedOption() });
  const found = matching(choices, words);
  useEffect(() => {
    if (words !== '') combobox.selectFirstOption();
    // The first match is offered whenever the words change, and only then.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [words]);
  return (
    <Combobox
      store={combobox}
      onOptionSubmit={(id) => {
        setText('');
        combobox.closeDropdown();
        onPick(id, amount);
      }}
      position="bottom-start"
      width={400}
      shadow="md"
      keepMounted={false}
    >
      <Combobox.Target>
        <input
          className={own.input}
          value={text}
          placeholder={label}
          aria-label={label}
          data-testid={testId}
          onChange={(event) => {
            setText(event.currentTarget.value);
            combobox.openDropdown();
          }}
          onFocus={() => combobox.openDropdown()}
          onClick={() => combobox.openDropdown()}
          onBlur={() => combobox.closeDropdown()}
          onKeyDown={(event) => {
            if (event.key === 'Escape') setText('');
          }}
        />
      </Combobox.Target>
      <Combobox.Dropdown>
        <Combobox.Options mah={260} style={{ overflowY: 'auto' }} aria-label={label}>
          {found.map((choice) => (
            <Combobox.Option key={choice.id} value={choice.id}>
              <span className={own.plain}>
                {choice.name}
                <span className={own.tag}>{choice.tag}</span>
                <small>{choice.about}</small>
              </span>
            </Combobox.Option>
          ))}
          {found.length === 0 && <Combobox.Empty>Nothing in the table matches “{words}”.</Combobox.Empty>}
        </Combobox.Options>
      </Combobox.Dropdown>
    </Combobox>
  );
}
