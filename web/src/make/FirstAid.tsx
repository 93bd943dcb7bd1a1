import { Button, Group, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Workshop } from '../api/types';
import { changeWorkshop, useWorkshop } from '../api/workshop';
import { useTellFailure } from '../app/showFailure';
import { Dialog } from '../design/Dialog';
import classes from './Make.module.css';

interface FirstAidProps {
  words: string[];
  opened: boolean;
  onClose: () => void;
}

/** Usual first aid for lye, and the numbers to call where this workshop is. */
export function FirstAid({ words, opened, onClose }: FirstAidProps) {
  return (
    <Dialog opened={opened} onClose={onClose} title="Lye on skin or in eyes" size="lg">
      <ul className={classes.aidList}>
        {words.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
      <EmergencyNumbers />
    </Dialog>
  );
}

/** Whom to call, typed once. */
export function EmergencyNumbers() {
  const workshop = useWorkshop();
  const [isEditing, setIsEditing] = useState(false);
  const numbers: [string, string][] = [
    ['Emergency', workshop?.emergency_number ?? ''],
    ['Poison service', workshop?.poison_number ?? ''],
  ];
  if (isEditing && workshop) return <Numbers workshop={workshop} onDone={() => setIsEditing(false)} />;
  return (
    <>
      <dl className={classes.numbers}>
        {numbers.map(([name, number]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{number === '' ? <span className="muted">no number entered</span> : <a href={`tel:${number.replace(/[^+\d]/g, '')}`}>{number}</a>}</dd>
          </div>
        ))}
      </dl>
      <Group justify="space-between">
        <span className="muted">Local advice comes first.</span>
        <Button onClick={() => setIsEditing(true)} data-testid="edit-numbers">
          {numbers.every(([, number]) => number !== '') ? 'Change the numbers' : 'Enter your local numbers'}
        </Button>
      </Group>
    </>
  );
}

function Numbers({ workshop, onDone }: { workshop: Workshop; onDone: () => void }) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const [numbers, setNumbers] = useState(workshop);
  const save = async () => {
    try {
      const { emergency_number, poison_number } = workshop;
      await changeWorkshop(client, { emergency_number: numbers.emergency_number, poison_number: numbers.poison_number }, { emergency_number, poison_number });
      onDone();
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <Group grow mb="sm">
        <TextInput label="Emergency number" maxLength={60} value={numbers.emergency_number} onChange={(event) => setNumbers({ ...numbers, emergency_number: event.currentTarget.value })} data-testid="emergency-number" />
        <TextInput label="Poison service" maxLength={60} value={numbers.poison_number} onChange={(event) => setNumbers({ ...numbers, poison_number: event.currentTarget.value })} data-testid="poison-number" />
      </Group>
      <Group justify="flex-end">
        <Button onClick={onDone}>Not now</Button>
        <Button type="submit" variant="filled" data-testid="save-numbers">Keep the numbers</Button>
      </Group>
    </form>
  );
}
