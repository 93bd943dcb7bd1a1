import { Button, Group, Menu, Modal, Stack } from '@mantine/core';
import { useState } from 'react';

import { useReference } from '../api/queries';
import type { Formula } from '../api/types';
import type { Edge } from '../shared/figures/BandEdges';
import type { BandEditing } from '../shared/figures/Tracks';
import buttons from '../shared/buttons.module.css';
import { NumberField } from '../shared/NumberField';
import { formatNumber, parseNumber } from '../shared/quantity';
import { SaveTargetSet, useRemoveTargetSet, useTargetSets } from '../shared/targetSets';
import { bandsOf, dropBand, setEdge, toBands, toTargets } from './bands';
import { useBench } from './BenchContext';
import classes from './BandsMenu.module.css';

/** The bands of the bench's tracks: dragged there, typed here, saved by name. */
export function useBandEditing(): BandEditing {
  const { draft } = useBench();
  const { purposes, qualities } = useReference();
  const purposeOf = (formula: Formula) => purposes.find((known) => known.id === formula.purpose);
  const bands = bandsOf(draft.formula, purposeOf(draft.formula));
  return {
    of: (id) => bands.find((band) => band.quality === id) ?? null,
    onChange: (id, edge, points) => {
      const quality = qualities.find((known) => known.id === id);
      if (quality)
        draft.edit((now) => setEdge(now, purposeOf(now), quality, edge, points), `band-${id}-${edge}`);
    },
    onSettled: draft.closeStep,
    menu: <BandsMenu />,
  };
}

function BandsMenu() {
  const { draft } = useBench();
  const { formula } = draft;
  const { purposes, qualities } = useReference();
  const sets = useTargetSets();
  const remove = useRemoveTargetSet();
  const [dialog, setDialog] = useState<'type' | 'save' | null>(null);
  const purpose = purposes.find((known) => known.id === formula.purpose);
  const bands = bandsOf(formula, purpose);
  const sameAs = sets.find((set) => JSON.stringify(toBands(set.targets, qualities)) === JSON.stringify(formula.bands));
  const whose = formula.bands === null || formula.bands === undefined ? 'usual' : (sameAs?.name ?? 'own');
  return (
    <>
      <Menu position="bottom-end">
        <Menu.Target>
          <button type="button" className={buttons.link} data-testid="bands-menu">
            {whose} bands ▾
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => setDialog('type')}>Type the bands …</Menu.Item>
          <Menu.Item onClick={() => setDialog('save')} disabled={bands.length === 0}>
            Save them by name …
          </Menu.Item>
          <Menu.Label>Take the bands of</Menu.Label>
          <Menu.Item
            onClick={() => draft.edit((now) => ({ ...now, bands: null }))}
            aria-current={whose === 'usual'}
          >
            its purpose, {purpose?.name.toLowerCase()}
          </Menu.Item>
          {sets.map((set) => (
            <Menu.Item
              key={set.id}
              onClick={() => draft.edit((now) => ({ ...now, bands: toBands(set.targets, qualities) }))}
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
        </Menu.Dropdown>
      </Menu>
      <Modal opened={dialog === 'save'} onClose={() => setDialog(null)} title="Save these bands">
        <SaveTargetSet
          targets={toTargets(bands, qualities)}
          onSaved={() => setDialog(null)}
          onCancel={() => setDialog(null)}
        />
      </Modal>
      <Modal opened={dialog === 'type'} onClose={() => setDialog(null)} title="The bands it is held against">
        <TypeBands onClose={() => setDialog(null)} />
      </Modal>
    </>
  );
}

function TypeBands({ onClose }: { onClose: () => void }) {
  const { draft } = useBench();
  const { purposes, qualities } = useReference();
  const [unread, setUnread] = useState<Record<string, string | undefined>>({});
  const [emptied, setEmptied] = useState<Record<string, boolean>>({});
  const purpose = purposes.find((known) => known.id === draft.formula.purpose);
  const bands = bandsOf(draft.formula, purpose);
  return (
    <Stack gap="sm">
      <div className={classes.grid}>
        <span />
        <span className="muted">at least</span>
        <span className="muted">at most</span>
        <span />
        {qualities.map((quality) => {
          const band = bands.find((one) => one.quality === quality.id);
          const isUpsideDown = band !== undefined && band.minimum > band.maximum;
          const field = (edge: Edge, words: string) => (
            <NumberField
              key={`${quality.id}-${edge}`}
              label={`${quality.name}, ${words}`}
              value={emptied[`${quality.id}-${edge}`] ? null : (band?.[edge] ?? null)}
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
              testId={`band-${quality.id}-${edge}`}
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
              disabled={band === undefined}
              aria-label={`No band for ${quality.name.toLowerCase()}`}
              onClick={() => draft.edit((now) => dropBand(now, purpose, quality.id))}
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
