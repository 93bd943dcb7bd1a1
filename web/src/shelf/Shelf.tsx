import { Button, SegmentedControl } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { useReference } from '../api/queries';
import type { OwnMaterial, ShelfMaterial } from '../api/types';
import { HatchDefs } from '../design/HatchDefs';
import { formatNumber } from '../design/quantity';
import { Swatch } from '../design/Swatch';
import { useTellFailure } from '../app/showFailure';
import heads from '../design/heads.module.css';
import { MaterialEditor } from './MaterialEditor';
import { StockStages } from './StockStages';
import { YourOils } from './YourOils';
import classes from './Shelf.module.css';

const KINDS: Record<OwnMaterial['content']['kind'], string> = {
  profile: 'by its fatty acids',
  sap: 'by its SAP value alone',
  certificate: 'certificate for a catalogue oil',
  recipe: 'mixture of other oils',
};

/** What is being edited: a kept material with its revision, or a new one. */
interface Editing {
  revision: number | null;
  material: OwnMaterial;
}

/** The maker's own materials: what the catalogue does not hold, or does not know as well. */
export function Shelf() {
  const [shown, setShown] = useState<'kept' | 'archived'>('kept');
  const [editing, setEditing] = useState<Editing | null>(null);
  const { data: materials } = useQuery({
    queryKey: ['materials', shown === 'archived'],
    queryFn: () => answered(api.GET('/api/materials', { params: { query: { deleted: shown === 'archived' } } })),
  });
  const actions = useShelfActions();
  const firstKind = useReference().starting_materials.certificate;
  useDocumentTitle('Own materials · Sapolin');

  return (
    <div className={classes.page}>
      <HatchDefs />
      <div className={heads.top}>
        <h1>Stock</h1>
        <StockStages />
      </div>
      <div className={classes.top}>
        <h2>Your own materials</h2>
        <p>
          Your own oils, certificates and mixtures. They stand in the list of oils beside the catalogue and behave as what
          they are made of. A formula keeps the values it was written with.
        </p>
        <SegmentedControl
          value={shown}
          onChange={setShown}
          data={[
            { value: 'kept', label: 'Kept' },
            { value: 'archived', label: 'Archived' },
          ]}
        />
        <Button
          variant="filled"
          onClick={() => firstKind && setEditing({ revision: null, material: firstKind })}
          data-testid="new-material"
        >
          New material
        </Button>
      </div>
      {materials?.length === 0 && (
        <p className={classes.empty}>
          {shown === 'archived'
            ? 'Nothing has been archived.'
            : 'Nothing of your own yet. Add a supplier’s certificate, a bottled blend, a master blend, or an oil that the catalogue lacks.'}
        </p>
      )}
      <ul className={classes.list} data-testid="materials">
        {materials?.map((entry) => (
          <MaterialRow
            key={entry.record.material.id}
            entry={entry}
            onEdit={() => setEditing({ revision: entry.record.revision, material: entry.record.material })}
            actions={actions}
          />
        ))}
      </ul>
      <YourOils />
      {editing && (
        <MaterialEditor
          key={editing.material.id}
          revision={editing.revision}
          material={editing.material}
          onClose={() => setEditing(null)}
          onKept={() => {
            setEditing(null);
            void actions.refresh();
          }}
        />
      )}
    </div>
  );
}

function useShelfActions() {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const refresh = () => client.invalidateQueries({ queryKey: ['materials'] });
  const path = (id: string) => ({ params: { path: { material_id: id } } });
  const restore = async (id: string) => {
    try {
      await answered(api.POST('/api/materials/{material_id}/restore', path(id)));
      await refresh();
    } catch (error) {
      tellFailure(error);
    }
  };
  return {
    refresh,
    restore,
    archive: async ({ id, name }: OwnMaterial) => {
      try {
        await answered(api.DELETE('/api/materials/{material_id}', path(id)));
        await refresh();
        const notice = notifications.show({
          autoClose: 8000,
          message: (
            <>
              “{name}” is archived.{' '}
              <Button
                size="compact-sm"
                onClick={() => {
                  notifications.hide(notice);
                  void restore(id);
                }}
              >
                Undo
              </Button>
            </>
          ),
        });
      } catch (error) {
        tellFailure(error);
      }
    },
  };
}

interface MaterialRowProps {
  entry: ShelfMaterial;
  onEdit: () => void;
  actions: ReturnType<typeof useShelfActions>;
}

function MaterialRow({ entry, onEdit, actions }: MaterialRowProps) {
  const { material, archived_at: archivedSince } = entry.record;
  const { summary } = entry;
  return (
    <li className={classes.row} data-testid={`material-${material.id}`}>
      <Swatch group={summary.group} hard={summary.hard} />
      <div>
        <strong>{material.name}</strong>
        <small>{KINDS[material.content.kind]}</small>
      </div>
      <span className={classes.quantity}>
        SAP {formatNumber(summary.sap_koh_mg_per_g, 1)}
        <small>mg KOH/g</small>
      </span>
      <span className={classes.notes}>{material.notes}</span>
      {archivedSince === null ? (
        <>
          <Button size="compact-md" onClick={onEdit}>
            Edit
          </Button>
          <Button size="compact-md" onClick={() => void actions.archive(material)}>
            Archive
          </Button>
        </>
      ) : (
        <Button size="compact-md" onClick={() => void actions.restore(material.id)}>
          Restore
        </Button>
      )}
    </li>
  );
}
