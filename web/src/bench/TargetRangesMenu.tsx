import { Button, Group, Menu, Stack } from '@mantine/core';
import { useState } from 'react';

import { useReference } from '../api/queries';
import type { Formula } from '../api/types';
import { Dialog } from '../design/Dialog';
import { MenuButton } from '../design/MenuButton';
import type { Edge } from '../design/scales/RangeEdges';
import type { TargetRangeEditing } from '../design/scales/QualityScales';
import buttons from '../design/buttons.module.css';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber } from '../design/quantity';
import { SaveTargetSet, useRemoveTargetSet, useTargetSets } from '../design/targetSets';
import { targetRangesOf, dropTargetRange, setEdge, toTargetRanges, toTargets } from './targetRanges';
import { useBench } from './BenchContext';
import classes from './TargetRangesMenu.module.css';

/** The target ranges of the bench's quality scales: dragged there, typed here, saved by name. */
export function useTargetRangeEditing(): TargetRangeEditing {
  const { draft } = useBench();
  const { purposes, qualities } = useReference();
  const purposeOf = (formula: Formula) => purposes.find((known) => known.id === formula.purpose);
  const targetRanges = targetRangesOf(draft.formula, purposeOf(draft.formula));
  return {
    of: (id) => targetRanges.find((targetRange) => targetRange.quality === id) ?? null,
    onChange: (id, edge, points) => {
      const quality = qualities.find((known) => known.id === id);
      if (quality)
        draft.edit((now) => setEdge(now, purposeOf(now), quality, edge, points), `target-range-${id}-${edge}`);
    },
    onSettled: draft.closeStep,
    menu: <TargetRangesMenu />,
  };
}

function TargetRangesMenu() {
  const { draft } = useBench();
  const { formula } = draft;
  const { purposes, qualities } = useReference();
  const sets = useTargetSets();
  const remove = useRemoveTargetSet();
  const [dialog, setDialog] = useState<'type' | 'save' | null>(null);
  const purpose = purposes.find((known) => known.id === formula.purpose);
  const targetRanges = targetRangesOf(formula, purpose);
  const sameAs = sets.find((set) => JSON.stringify(toTargetRanges(set.targets, qualities)) === JSON.stringify(formula.target_ranges));
  const whose = formula.target_ranges === null || formula.target_ranges === undefined ? 'usual' : (sameAs?.name ?? 'own');
  return (
    <>
      <MenuButton
        position="bottom-end"
        button={
          <button type="button" className={buttons.link} data-testid="target-ranges-menu">
            {whose} target ranges ▾
          </button>
        }
      >
        <Menu.Item onClick={() => setDialog('type')}>Type the target ranges …</Menu.Item>
        <Menu.Item onClick={() => setDialog('save')} disabled={targetRanges.length === 0}>
          Save them by name …
        </Menu.Item>
        <Menu.Label>Use the target ranges of</Menu.Label>
        <Menu.Item
          onClick={() => draft.edit((now) => ({ ...now, target_ranges: null }))}
          aria-current={whose === 'usual'}
        >
          its purpose, {purpose?.name.toLowerCase()}
        </Menu.Item>
        {sets.map((set) => (
          <Menu.Item
            key={set.id}
            onClick={() => draft.edit((now) => ({ ...now, target_ranges: toTargetRanges(set.targets, qualities) }))}
            aria-current={sameAs?.id === set.id}
          >
            {set.name}
          </Menu.Item>
        ))}
        {sets.length > 0 && <Menu.Label>Remove</Menu.Label>}
        {sets.map((set) => (
          <Menu.Item key={set.id} onClick={() => void remove(set)}>
            {set.name}
          </Menu.Item>
        ))}
      </MenuButton>
      <Dialog opened={dialog === 'save'} onClose={() => setDialog(null)} title="Save these target ranges">
        <SaveTargetSet
          targets={toTargets(targetRanges, qualities)}
          onSaved={() => setDialog(null)}
          onCancel={() => setDialog(null)}
        />
      </Dialog>
      <Dialog opened={dialog === 'type'} onClose={() => setDialog(null)} title="Target ranges of this formula">
        <TypeTargetRanges onClose={() => setDialog(null)} />
      </Dialog>
    </>
  );
}

function TypeTargetRanges({ onClose }: { onClose: () => void }) {
  const { draft } = useBench();
  const { purposes, qualities } = useReference();
  const [unread, setUnread] = useState<Record<string, string | undefined>>({});
  const [emptied, setEmptied] = useState<Record<string, boolean>>({});
  const purpose = purposes.find((known) => known.id === draft.formula.purpose);
  const targetRanges = targetRangesOf(draft.formula, purpose);
  return (
    <Stack gap="sm">
      <div className={classes.grid}>
        <span />
        <span className="muted">at least</span>
        <span className="muted">at most</span>
        <span />
        {qualities.map((quality) => {
          const targetRange = targetRanges.find((one) => one.quality === quality.id);
          const isUpsideDown = targetRange !== undefined && targetRange.minimum > targetRange.maximum;
          const field = (edge: Edge, words: string) => (
            <NumberField
              key={`${quality.id}-${edge}`}
              label={`${quality.name}, ${words}`}
              value={emptied[`${quality.id}-${edge}`] ? null : (targetRange?.[edge] ?? null)}
              unit=""
              step={1}
              format={(shown) => formatNumber(shown, 1, 0)}
              parse={parseNumber}
              unread={unread[`${quality.id}-${edge}`]}
              onUnread={(text) =>
                setUnread((now) => ({ ...now, [`${quality.id}-${edge}`]: text ?? undefined }))
              }
              onChange={(points) => {
                setEmptied((now) => ({ ...now, [`${quality.id}-${edge}`]: points === null }));
                // An emptied end is being typed anew; only “none” gives the range up.
                if (points !== null) draft.edit((now) => setEdge(now, purpose, quality, edge, points));
              }}
              onLeave={() => setEmptied((now) => ({ ...now, [`${quality.id}-${edge}`]: false }))}
              problem={isUpsideDown && edge === 'maximum' ? 'Below its lower edge: it counts only once the two are the right way round.' : undefined}
              testId={`target-range-${quality.id}-${edge}`}
            />
          );
          return [
            <span key={quality.id}>{quality.name}</span>,
            field('minimum', 'at least'),
            field('maximum', 'at most'),
            <button
              key={`${quality.id}-none`}
              type="button"
              className={buttons.link}
              disabled={targetRange === undefined}
              aria-label={`No target range for ${quality.name.toLowerCase()}`}
              onClick={() => draft.edit((now) => dropTargetRange(now, purpose, quality.id))}
            >
              none
            </button>,
          ];
        })}
      </div>
      <Group justify="flex-end">
        <Button variant="filled" onClick={onClose}>
          Done
        </Button>
      </Group>
    </Stack>
  );
}
