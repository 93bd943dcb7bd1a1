import { Button, Menu, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { ApiFailure } from '../api/client';
import type { Cutter } from '../api/types';
import { changeWorkshop, useWorkshop } from '../api/workshop';
import { Dialog } from '../design/Dialog';
import { MenuButton } from '../design/MenuButton';
import { formatNumber, parseNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { saidOf } from '../design/units';
import buttons from '../design/buttons.module.css';
import classes from './Batch.module.css';

/** What the loaf is cut with: one thickness, or a cutter of the workshop with gaps of its own. */
export function CutterPick({ cutter, onPick }: { cutter: Cutter | null; onPick: (cutter: Cutter | null) => void }) {
  const workshop = useWorkshop();
  const [isNew, setNew] = useState(false);
  return (
    <div className={classes.cutter}>
      <span>Cut with</span>
      <MenuButton
        button={
          <button type="button" className={buttons.link} data-testid="cutter">
            {cutter === null ? 'one thickness' : `${cutter.name}: ${told(cutter)}`} ▾
          </button>
        }
      >
        <Menu.Item onClick={() => onPick(null)}>One thickness</Menu.Item>
        {(workshop?.cutters ?? []).map((one) => (
          <Menu.Item key={one.name} onClick={() => onPick(one)} rightSection={told(one)}>
            {one.name}
          </Menu.Item>
        ))}
        <Menu.Divider />
        <Menu.Item onClick={() => setNew(true)}>A new cutter …</Menu.Item>
      </MenuButton>
      {isNew && <NewCutter kept={workshop?.cutters ?? []} onClose={() => setNew(false)} onKept={onPick} />}
    </div>
  );
}

function told(cutter: Cutter): string {
  return `${cutter.gaps_mm.map((gap) => formatNumber(gap, 1, 0)).join(', ')} mm`;
}

interface NewCutterProps {
  kept: Cutter[];
  onClose: () => void;
  onKept: (cutter: Cutter) => void;
}

function NewCutter({ kept, onClose, onKept }: NewCutterProps) {
  const client = useQueryClient();
  const [name, setName] = useState('');
  const [gaps, setGaps] = useState('');
  const [kerf, setKerf] = useState('0.5');
  const read = gaps.split(/[;\s]+|,(?=\s)/).filter(Boolean).map((word) => parseNumber(word));
  const numbers = read.flatMap((one) => (one.ok && one.value !== null ? [one.value] : []));
  const width = parseNumber(kerf);
  const keep = useMutation({
    mutationFn: (cutter: Cutter) => changeWorkshop(client, { cutters: [cutter, ...kept.filter((one) => one.name !== cutter.name)] }, { cutters: kept }),
    onSuccess: (_, cutter) => {
      onKept(cutter);
      onClose();
    },
  });
  const problem = keep.error instanceof ApiFailure ? keep.error.problems[0] : undefined;
  const isWhole = name.trim() !== '' && numbers.length > 0 && numbers.length === read.length && width.ok && width.value !== null;
  return (
    <Dialog opened onClose={onClose} title="A cutter of your own">
      <TextInput label="Name" value={name} maxLength={40} onChange={(event) => setName(event.currentTarget.value)} data-autofocus data-testid="cutter-name" />
      <TextInput label="Gaps between its wires, mm" description="One after the other; the first follows the last again." placeholder="25, 25, 30" value={gaps} onChange={(event) => setGaps(event.currentTarget.value)} data-testid="cutter-gaps" />
      <TextInput label="A wire takes, mm" value={kerf} onChange={(event) => setKerf(event.currentTarget.value)} />
      {keep.error !== null && <p role="alert">{problem === undefined ? keep.error.message : <Sentence>{saidOf(problem)}</Sentence>}</p>}
      <Button mt={12} variant="filled" disabled={!isWhole} loading={keep.isPending} onClick={() => isWhole && width.ok && keep.mutate({ name: name.trim(), gaps_mm: numbers, kerf_mm: width.value ?? 0 })} data-testid="keep-cutter">
        Keep it
      </Button>
    </Dialog>
  );
}
