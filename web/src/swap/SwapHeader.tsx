import { Button, Menu } from '@mantine/core';
import type { ReactNode } from 'react';

import { useOilsAndMaterials, useReference } from '../api/queries';
import type { FormulaRecord } from '../api/types';
import { MenuButton } from '../design/MenuButton';
import { FormulaStages } from '../formulas/FormulaStages';
import { formatShare } from '../design/quantity';
import { impliedIn, type Asked } from './question';
import classes from './Swap.module.css';

interface SwapHeaderProps {
  record: FormulaRecord;
  asked: Asked;
  /** Nobody said yet which oil goes. */
  isGuess: boolean;
  onAsk: (change: Partial<Asked>) => void;
  canKeep: boolean;
  onKeep: () => void;
}

/** The question as a sentence of chips, each of which can be changed. */
export function SwapHeader({ record, asked, isGuess, onAsk, canKeep, onKeep }: SwapHeaderProps) {
  const { formula } = record;
  const oils = useOilsAndMaterials();
  const { free_of: words, choices } = useReference();
  const { reason: reasons = [], swap_school: schools = [] } = choices;
  const name = (id: string) =>
    formula.materials.find((material) => material.id === id)?.name ?? oils.find((oil) => oil.id === id)?.name ?? id;
  const going = asked.outgoing.map((out) => out.oil);
  // What the reason itself rules out is not open to choice: another reason is.
  const implied = new Set<string>(impliedIn(asked, oils, words));
  const without = [...new Set<string>([...formula.free_of, ...asked.free_of, ...implied])];
  const toggleGoing = (oil: string) => {
    const left = going.includes(oil) ? going.filter((one) => one !== oil) : isGuess ? [oil] : [...going, oil];
    if (left.length > 0) onAsk({ outgoing: left.map((one) => ({ oil: one, keep_percent: 0 })) });
  };

  return (
    <div className={classes.header}>
      <h1 className={classes.title}>{formula.name}</h1>
      <FormulaStages formulaId={record.id} />
      <span className={classes.break} />
      <Chip label={<>take out <strong>{going.map(name).join(', ')}</strong></>} testId="swap-out" accent>
        {formula.blend.lines.map((line) => (
          <Menu.CheckboxItem key={line.oil} checked={going.includes(line.oil)} onChange={() => toggleGoing(line.oil)}>
            {name(line.oil)}
            {line.by === 'percent_of_oils' && line.value !== null && ` ${formatShare(line.value)} %`}
          </Menu.CheckboxItem>
        ))}
      </Chip>
      <Chip
        label={<>because <strong>{reasons.find((known) => known.value === asked.reason)?.label}</strong></>}
        testId="swap-reason"
      >
        {reasons.map((reason) => (
          <Menu.Item
            key={reason.value}
            aria-current={reason.value === asked.reason}
            onClick={() => onAsk({ reason: reason.value as Asked['reason'] })}
          >
            {reason.label}
          </Menu.Item>
        ))}
      </Chip>
      <Chip
        label={without.length === 0 ? 'free from …' : <>free from <strong>{without.join(', ')}</strong></>}
        testId="swap-without"
      >
        <Menu.Label>What comes in must be free from</Menu.Label>
        {words.map((word) => (
          <Menu.CheckboxItem
            key={word}
            checked={without.includes(word)}
            disabled={formula.free_of.includes(word as Asked['free_of'][number]) || implied.has(word)}
            onChange={() => {
              const one = word as Asked['free_of'][number];
              onAsk({
                free_of: asked.free_of.includes(one) ? asked.free_of.filter((kept) => kept !== one) : [...asked.free_of, one],
              });
            }}
          >
            {word}
          </Menu.CheckboxItem>
        ))}
      </Chip>
      <Chip
        label={<>by <strong>{schools.find((school) => school.value === asked.school)?.label}</strong></>}
        testId="swap-how"
      >
        <Menu.Label>Compared by</Menu.Label>
        {schools.map((school) => (
          <Menu.Item
            key={school.value}
            maw={320}
            aria-current={school.value === asked.school}
            onClick={() => onAsk({ school: school.value as Asked['school'] })}
          >
            <strong>{school.label}</strong>
            <br />
            <span className="muted">{school.meaning}</span>
          </Menu.Item>
        ))}
        <Menu.Divider />
        <Menu.CheckboxItem checked={asked.into_target_ranges} onChange={(into_target_ranges) => onAsk({ into_target_ranges })}>
          Bring what is out of its target range to the nearest edge
        </Menu.CheckboxItem>
      </Chip>
      <Chip
        label={
          <>
            <strong>{asked.most_replacements}</strong> new
            {othersInShort(asked)}
          </>
        }
        testId="swap-many"
      >
        <Menu.Label>New oils at most</Menu.Label>
        {[1, 2, 3].map((count) => (
          <Menu.Item
            key={count}
            aria-current={count === asked.most_replacements}
            onClick={() => onAsk({ most_replacements: count, ...(count === 3 && asked.others === 'one_moves' ? { others: 'locked' as const } : {}) })}
          >
            {count}
          </Menu.Item>
        ))}
        <Menu.Divider />
        <Menu.Label>The oils that stay</Menu.Label>
        <Menu.Item aria-current={asked.others === 'locked'} onClick={() => onAsk({ others: 'locked' })}>
          are locked
        </Menu.Item>
        {[3, 6, 12].map((points) => (
          <Menu.Item
            key={points}
            aria-current={asked.others === 'one_moves' && asked.within_points === points}
            onClick={() =>
              onAsk({ others: 'one_moves', within_points: points, most_replacements: Math.min(asked.most_replacements, 2) })
            }
          >
            one may move by up to {points} points
          </Menu.Item>
        ))}
        {[3, 6, 12].map((points) => (
          <Menu.Item
            key={points}
            aria-current={asked.others === 'within' && asked.within_points === points}
            onClick={() => onAsk({ others: 'within', within_points: points })}
          >
            may all move by up to {points} points
          </Menu.Item>
        ))}
        <Menu.Item aria-current={asked.others === 'free'} onClick={() => onAsk({ others: 'free' })} maw={320}>
          are free
          <br />
          <span className="muted">Still, none moves without a gain, and what is locked in Design stays.</span>
        </Menu.Item>
        <Menu.Divider />
        <Menu.CheckboxItem checked={asked.with_specialties} onChange={(with_specialties) => onAsk({ with_specialties })}>
          Also dear, rare, smelling or staining oils
        </Menu.CheckboxItem>
      </Chip>
      <span className={classes.spring} />
      <Button variant="filled" disabled={!canKeep} onClick={onKeep} rightSection={<small>Ctrl ↵</small>} data-testid="keep-swap">
        Keep as a version
      </Button>
    </div>
  );
}

function othersInShort({ others, within_points: points }: Asked): string {
  if (others === 'one_moves') return `, another ±${points}`;
  if (others === 'within') return `, the others ±${points}`;
  return others === 'free' ? ', the others free' : '';
}

interface ChipProps {
  label: ReactNode;
  testId: string;
  accent?: boolean;
  children: ReactNode;
}

function Chip({ label, testId, accent = false, children }: ChipProps) {
  return (
    <MenuButton
      closeOnItemClick={false}
      dropdown={{ mah: 460, style: { overflowY: 'auto' } }}
      button={
        <button type="button" className={`${classes.chip} ${accent ? classes.accent : ''}`} data-testid={testId}>
          {label} ▾
        </button>
      }
    >
      {children}
    </MenuButton>
  );
}
