import { Combobox } from '@mantine/core';

import own from './PickOne.module.css';
import { useNamedSearch } from './useNamedSearch';

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
  const { words, found, combobox, onOptionSubmit, field } = useNamedSearch(choices, onPick);
  return (
    <Combobox store={combobox} onOptionSubmit={onOptionSubmit} position="bottom-start" width={400} shadow="md" keepMounted={false}>
      <Combobox.Target>
        <input {...field} className={own.input} placeholder={label} aria-label={label} data-testid={testId} />
      </Combobox.Target>
      <Combobox.Dropdown className={own.list}>
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
