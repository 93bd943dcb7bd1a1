import { useCombobox, type ComboboxStore } from '@mantine/core';
import { useEffect, useState, type ChangeEvent, type KeyboardEvent } from 'react';

import { matching, splitAmount, type Findable } from './findOils';

interface NamedSearch<T> {
  words: string;
  found: T[];
  combobox: ComboboxStore;
  /** For its `Combobox`. */
  onOptionSubmit: (id: string) => void;
  /** Put words into the field, as by its keys. */
  type: (text: string) => void;
  /** For its `input`. */
  field: {
    value: string;
    onChange: (event: ChangeEvent<HTMLInputElement>) => void;
    onFocus: () => void;
    onClick: () => void;
    onBlur: () => void;
    onKeyDown: (event: KeyboardEvent<HTMLInputElement>) => void;
  };
}

/** A search by name, with an amount behind it (`shea 5`). Enter takes what the words in the field say, however quickly they were
 *  typed: the list may be drawn after it. Arrows may have gone to another entry, which is taken then. */
export function useNamedSearch<T extends Findable>(entries: readonly T[], onPick: (id: string, amount: string) => void): NamedSearch<T> {
  const [text, setText] = useState('');
  const { words, amount } = splitAmount(text);
  const combobox = useCombobox({ onDropdownClose: () => combobox.resetSelectedOption() });

  useEffect(() => {
    if (words !== '') combobox.selectFirstOption();
    // The first match is offered whenever the words change, and only then.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [words]);

  const type = (typed: string) => {
    setText(typed);
    combobox.openDropdown();
  };
  const pick = (id: string, amountTyped: string) => {
    setText('');
    combobox.closeDropdown();
    onPick(id, amountTyped);
  };

  return {
    words,
    found: matching(entries, words),
    combobox,
    onOptionSubmit: (id) => pick(id, amount),
    type,
    field: {
      value: text,
      onChange: (event) => type(event.currentTarget.value),
      onFocus: () => combobox.openDropdown(),
      onClick: () => combobox.openDropdown(),
      onBlur: () => combobox.closeDropdown(),
      onKeyDown: (event) => {
        if (event.key === 'Escape') setText('');
        const typed = splitAmount(event.currentTarget.value);
        if (event.key !== 'Enter' || event.nativeEvent.isComposing || typed.words === '' || combobox.getSelectedOptionIndex() > 0) return;
        event.preventDefault();
        // The list, which hears of the key next, takes nothing then.
        combobox.resetSelectedOption();
        const first = matching(entries, typed.words)[0];
        if (first !== undefined) pick(first.id, typed.amount);
      },
    },
  };
}
