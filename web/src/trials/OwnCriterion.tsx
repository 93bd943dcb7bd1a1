import { Button, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { useTellFailure } from '../app/showFailure';
import { Dialog } from '../design/Dialog';
import buttons from '../design/buttons.module.css';

const PLACES = ['1, the least', '2', '3, the middle', '4', '5, the most'];

/** Something of one's own to judge bars by, in five words. */
export function OwnCriterion() {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const [isOpen, setOpen] = useState(false);
  const [name, setName] = useState('');
  const [words, setWords] = useState<string[]>(PLACES.map(() => ''));
  const add = useMutation({
    mutationFn: () => answered(api.POST('/api/criteria', { body: { name: name.trim(), words: words.map((word) => word.trim()) as [string, string, string, string, string], asks: '' } })),
    onSuccess: () => {
      setOpen(false);
      setName('');
      setWords(PLACES.map(() => ''));
      void client.invalidateQueries({ queryKey: ['tests'] });
    },
    onError: tellFailure,
  });
  const isWhole = name.trim() !== '' && words.every((word) => word.trim() !== '');
  return (
    <>
      <button type="button" className={buttons.link} onClick={() => setOpen(true)} data-testid="own-criterion">
        Judge by something of your own
      </button>
      <Dialog opened={isOpen} onClose={() => setOpen(false)} title="Something of your own to judge by">
        <p>It stands on every sheet from now on. Its words never change, so that what was judged keeps its meaning.</p>
        <TextInput label="Name" value={name} maxLength={60} onChange={(event) => setName(event.currentTarget.value)} data-autofocus data-testid="own-name" />
        {PLACES.map((place, i) => (
          <TextInput key={place} label={place} value={words[i]} maxLength={24} onChange={(event) => { const word = event.currentTarget.value; setWords((now) => now.map((one, at) => (at === i ? word : one))); }} data-testid={`own-word-${i + 1}`} />
        ))}
        <Button mt={12} variant="filled" disabled={!isWhole} loading={add.isPending} onClick={() => add.mutate()} data-testid="add-criterion">
          Put it on the sheet
        </Button>
      </Dialog>
    </>
  );
}
