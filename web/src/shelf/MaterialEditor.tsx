import { Button, Textarea, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { useMaterials, useOils, useReference } from '../api/queries';
import type { OwnMaterial, Diagnostic } from '../api/types';
import { Dialog } from '../design/Dialog';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { Sentence } from '../design/Sentence';
import { useTemperature } from '../design/temperature';
import { saidOf, useShown } from '../design/units';
import { ConflictDialog } from '../sync/ConflictDialog';
import { StayGuard } from '../sync/StayGuard';
import classes from './MaterialEditor.module.css';

type Content = OwnMaterial['content'];
type Kind = Content['kind'];

const KINDS: { value: Kind; label: string }[] = [
  { value: 'certificate', label: 'Supplier’s certificate for a catalogue oil' },
  { value: 'recipe', label: 'Mixture: bottled blend, master blend, soap grade' },
  { value: 'profile', label: 'Oil by its fatty acids' },
  { value: 'sap', label: 'Oil by its SAP value alone' },
];
const CERTAINTY: { value: OwnMaterial['vegan']; label: string }[] = [
  { value: 'yes', label: 'yes' },
  { value: 'no', label: 'no' },
  { value: 'maybe', label: 'not known' },
];

interface MaterialEditorProps {
  /** Null for a material not kept yet. */
  revision: number | null;
  material: OwnMaterial;
  onClose: () => void;
  onKept: () => void;
}

/** Everything about one own material, checked as it is typed. */
export function MaterialEditor({ revision, material: initial, onClose, onKept }: MaterialEditorProps) {
  const [material, setMaterial] = useState(initial);
  const [unread, setUnread] = useState<Record<string, string>>({});
  const [failure, setFailure] = useState<string | null>(null);
  const [base, setBase] = useState(revision);
  const [isConflict, setConflict] = useState(false);
  const [isLeaving, setLeaving] = useState(false);
  const isChanged = material !== initial || Object.keys(unread).length > 0;
  const shown = useShown();
  const temperature = useTemperature();
  const { starting_materials: starting } = useReference();
  const [settled] = useDebouncedValue(material, 150);
  const { data: check } = useQuery({
    queryKey: ['material-check', settled],
    queryFn: () => answered(api.POST('/api/materials/check', { body: settled })),
    enabled: settled.name !== '',
    placeholderData: (previous) => previous,
  });
  const problems = check?.problems ?? [];
  const isReady = material.name.trim() !== '' && Object.keys(unread).length === 0;

  const setContent = (change: Partial<Content>) =>
    setMaterial((now) => ({ ...now, content: { ...now.content, ...change } as Content }));
  const field: FieldMaker = (path, value, change) => ({
    value,
    unread: unread[path],
    onUnread: (text) =>
      setUnread((now) => {
        const others = Object.entries(now).filter(([other]) => other !== path);
        return Object.fromEntries(text === null ? others : [...others, [path, text]]);
      }),
    onChange: change,
    parse: parseNumber,
    testId: path,
    ...troubleOf(problems, path),
  });
  const keep = async () => {
    setFailure(null);
    try {
      await answered(
        base === null
          ? api.POST('/api/materials', { body: material })
          : api.PUT('/api/materials/{material_id}', {
              params: { path: { material_id: material.id } },
              body: { revision: base, material },
            }),
      );
      onKept();
    } catch (error) {
      if (error instanceof ApiFailure && error.status === 409) setConflict(true);
      else setFailure(error instanceof ApiFailure ? error.problems[0] === undefined ? error.message : shown(saidOf(error.problems[0])) : String(error));
    }
  };

  return (
    <Dialog
      opened
      onClose={() => (isChanged ? setLeaving(true) : onClose())}
      title={revision === null ? 'New material' : 'Edit material'}
      size={640}
      closeButtonProps={{ 'aria-label': 'Leave without keeping' }}
    >
      <StayGuard when={isChanged} what={`What was entered of “${material.name}”`} />
      <Dialog opened={isLeaving} onClose={() => setLeaving(false)} title="This is kept nowhere yet">
        <p>What was entered of “{material.name}” would be lost by leaving.</p>
        <Button onClick={onClose} data-testid="leave-anyway">
          Leave without it
        </Button>{' '}
        <Button variant="filled" onClick={() => setLeaving(false)} data-autofocus>
          Stay here
        </Button>
      </Dialog>
      <ConflictDialog
        opened={isConflict}
        name={material.name}
        copyLabel="Keep mine as a material of its own"
        load={async () => {
          const all = await answered(api.GET('/api/materials'));
          const theirs = all.find((one) => one.record.material.id === material.id)?.record;
          if (theirs === undefined) throw new Error('It has been archived in the meantime. Keep yours as a material of its own.');
          return theirs;
        }}
        onCopy={async () => {
          await answered(api.POST('/api/materials', { body: { ...material, name: `${material.name.slice(0, 108)} (my copy)` } }));
          onKept();
        }}
        onTheirs={(theirs) => {
          setMaterial(theirs.material);
          setBase(theirs.revision);
          setConflict(false);
        }}
        onMine={(theirs) => {
          setBase(theirs.revision);
          setConflict(false);
          setFailure('Keep it once more to replace theirs.');
        }}
      />
      <div className={classes.form}>
        <TextInput
          label="Name"
          value={material.name}
          maxLength={120}
          onChange={(event) => setMaterial({ ...material, name: event.currentTarget.value })}
          error={material.name.trim() === '' ? 'Give it a name.' : undefined}
          data-testid="material-name"
          data-autofocus
        />
        <SelectField
          showLabel
          label="What is known of it"
          value={material.content.kind}
          options={KINDS}
          onChange={(kind) => setMaterial({ ...material, content: starting[kind]?.content ?? material.content })}
          testId="material-kind"
        />
        <ContentFields content={material.content} setContent={setContent} field={field} problems={problems} own={material.id} />
        {(material.content.kind === 'profile' || material.content.kind === 'sap') && (
          <div className={classes.pair}>
            <SelectField
              showLabel
              label="From palm"
              value={material.palm_derived}
              options={CERTAINTY}
              onChange={(palm_derived) => setMaterial({ ...material, palm_derived })}
            />
            <SelectField
              showLabel
              label="Vegan"
              value={material.vegan}
              options={CERTAINTY}
              onChange={(vegan) => setMaterial({ ...material, vegan })}
            />
          </div>
        )}
        <TextInput
          label="Allergens, separated by semicolons"
          value={material.allergens}
          maxLength={200}
          placeholder={material.content.kind === 'recipe' ? 'those of its parts are added by themselves' : ''}
          onChange={(event) => setMaterial({ ...material, allergens: event.currentTarget.value })}
        />
        <Textarea
          label="Notes: supplier, lot, what the certificate says"
          value={material.notes}
          maxLength={2000}
          autosize
          minRows={2}
          onChange={(event) => setMaterial({ ...material, notes: event.currentTarget.value })}
        />
        {check?.oil && (
          <p className={classes.outcome} role="status" data-testid="material-outcome">
            Calculates as SAP <b>{formatNumber(check.oil.sap_koh_mg_per_g.typical, 1)}</b> mg KOH/g (
            {formatNumber(check.oil.sap_koh_mg_per_g.minimum, 1)} to {formatNumber(check.oil.sap_koh_mg_per_g.maximum, 1)}
            ), iodine value <b>{formatNumber(check.oil.iodine_value.typical, 1)}</b>,{' '}
            {check.oil.state_at_20_c} at {temperature.format(20)} {temperature.unit}
            {check.oil.known_profile_percent < 100 &&
              `; fatty acids unknown for ${formatNumber(100 - check.oil.known_profile_percent, 0)} %`}
            .
          </p>
        )}
        {failure !== null && (
          <p className={classes.failure} role="alert">
            {failure}
          </p>
        )}
        <div className={classes.actions}>
          <Button onClick={onClose}>Leave without keeping</Button>
          <Button variant="filled" disabled={!isReady} onClick={() => void keep()} data-testid="keep-material">
            Keep on the shelf
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

function troubleOf(problems: readonly Diagnostic[], path: string) {
  const found = problems.find((problem) => problem.path === path);
  return found === undefined ? {} : { problem: saidOf(found), offers: found.offers };
}

type FieldMaker = (
  path: string,
  value: number | null,
  change: (value: number | null) => void,
) => Pick<
  Parameters<typeof NumberField>[0],
  'value' | 'unread' | 'onUnread' | 'onChange' | 'parse' | 'testId' | 'problem' | 'offers'
>;

interface ContentFieldsProps {
  content: Content;
  setContent: (change: Partial<Content>) => void;
  field: FieldMaker;
  problems: readonly Diagnostic[];
  /** Id of the material itself, which cannot be a part of it. */
  own: string;
}

const plain = (value: number) => formatNumber(value, 2, 0);

function ContentFields({ content, setContent, field, problems, own }: ContentFieldsProps): ReactNode {
  const oils = useOils();
  switch (content.kind) {
    case 'certificate':
      return (
        <>
          <SelectField
            showLabel
            label="Certificate for"
            value={content.of}
            options={oils.map((oil) => ({ value: oil.id, label: oil.name }))}
            onChange={(of) => setContent({ of })}
          />
          <div className={classes.pair}>
            <SapField label="SAP value" content={content} setContent={setContent} field={field} />
            <NumberField
              showLabel
              label="Iodine value"
              unit=""
              step={1}
              format={plain}
              {...field('content.iodine_value', content.iodine_value ?? null, (value) =>
                setContent({ iodine_value: value }),
              )}
            />
          </div>
          <p className={classes.hint}>What is left empty stays typical.</p>
        </>
      );
    case 'sap':
      return (
        <>
          <SapField label="SAP value" content={content} setContent={setContent} field={field} />
          <SolidField solid={content.solid_at_20_c} onChange={(solid_at_20_c) => setContent({ solid_at_20_c })} />
          <p className={classes.hint}>Its lye can be calculated; its part in the qualities stays unknown.</p>
        </>
      );
    case 'profile':
      return (
        <>
          <AcidFields content={content} setContent={setContent} field={field} problems={problems} />
          <div className={classes.pair}>
            <SapField label="SAP value, if certified" content={content} setContent={setContent} field={field} />
            <NumberField
              showLabel
              label="Unsaponifiables"
              unit="%"
              step={0.1}
              format={plain}
              emptyIs={0}
              {...field('content.unsaponifiable_percent', content.unsaponifiable_percent, (value) =>
                setContent({ unsaponifiable_percent: value ?? 0 }),
              )}
            />
          </div>
          <SolidField solid={content.solid_at_20_c} onChange={(solid_at_20_c) => setContent({ solid_at_20_c })} />
        </>
      );
    case 'recipe':
      return <PartFields content={content} setContent={setContent} field={field} problems={problems} own={own} />;
  }
}

interface SapFieldProps extends Pick<ContentFieldsProps, 'setContent' | 'field'> {
  label: string;
  content: { sap_koh_mg_per_g?: number | null };
}

function SapField({ label, content, setContent, field }: SapFieldProps) {
  return (
    <NumberField
      showLabel
      label={label}
      unit="mg KOH/g"
      step={1}
      format={plain}
      {...field('content.sap_koh_mg_per_g', content.sap_koh_mg_per_g ?? null, (value) =>
        setContent({ sap_koh_mg_per_g: value }),
      )}
    />
  );
}

function SolidField({ solid, onChange }: { solid: boolean; onChange: (solid: boolean) => void }) {
  const temperature = useTemperature();
  return (
    <SelectField
      showLabel
      label={`At ${temperature.format(20)} ${temperature.unit} it is`}
      value={solid ? 'solid' : 'liquid'}
      options={[
        { value: 'liquid', label: 'liquid' },
        { value: 'solid', label: 'solid' },
      ]}
      onChange={(value) => onChange(value === 'solid')}
    />
  );
}

type Of<K extends Kind> = Omit<ContentFieldsProps, 'content' | 'own'> & { content: Extract<Content, { kind: K }> };

function AcidFields({ content, setContent, field, problems }: Of<'profile'>) {
  const { acids } = useReference();
  const sum = Object.values(content.acids_percent).reduce((total, percent) => total + percent, 0);
  const trouble = troubleOf(problems, 'content.acids_percent');
  return (
    <>
      <div className={classes.acids}>
        {acids.map((acid) => (
          <NumberField
            key={acid.id}
            showLabel
            label={`${acid.name} ${acid.id}`}
            unit="%"
            step={0.5}
            format={plain}
            {...field(`content.acids_percent.${acid.id}`, content.acids_percent[acid.id] ?? null, (value) => {
              const others = Object.entries(content.acids_percent).filter(([id]) => id !== acid.id);
              setContent({
                acids_percent: Object.fromEntries(value === null ? others : [...others, [acid.id, value]]),
              });
            })}
          />
        ))}
      </div>
      <p className={trouble.problem === undefined ? classes.hint : classes.failure}>
        Together {formatNumber(sum, 1)} %. <Sentence>{trouble.problem}</Sentence>
      </p>
    </>
  );
}

function PartFields({ content, setContent, field, problems, own }: Of<'recipe'> & { own: string }) {
  const oils = useOils();
  const materials = useMaterials();
  const choices = [
    { value: '', label: 'Add a part …' },
    ...materials
      .filter(({ record }) => record.material.id !== own)
      .map(({ record }) => ({ value: record.material.id, label: `${record.material.name} (own)` })),
    ...oils.map((oil) => ({ value: oil.id, label: oil.name })),
  ];
  const name = (id: string) => choices.find((choice) => choice.value === id)?.label ?? id;
  const together = troubleOf(problems, 'content.components');
  const sum = content.components.reduce((total, component) => total + (component.share_percent ?? 0), content.filler_percent);
  return (
    <>
      <ul className={classes.components}>
        {content.components.map((component, index) => (
          <li key={`${component.oil}-${index}`}>
            <span>{name(component.oil)}</span>
            <NumberField
              label={`${name(component.oil)}, share in percent`}
              unit="%"
              step={1}
              format={plain}
              {...field(`content.components[${index}].share_percent`, component.share_percent, (value) =>
                setContent({
                  components: content.components.map((one, i) => (i === index ? { ...one, share_percent: value } : one)),
                }),
              )}
            />
            <Button
              size="compact-sm"
              aria-label={`Take out ${name(component.oil)}`}
              onClick={() => setContent({ components: content.components.filter((_, i) => i !== index) })}
            >
              ×
            </Button>
          </li>
        ))}
      </ul>
      <SelectField
        label="Add a part"
        value=""
        options={choices}
        onChange={(oil) => oil !== '' && setContent({ components: [...content.components, { oil, share_percent: null }] })}
        testId="add-component"
      />
      <NumberField
        showLabel
        label="Filler that no lye touches"
        unit="%"
        step={1}
        format={plain}
        emptyIs={0}
        {...field('content.filler_percent', content.filler_percent, (value) =>
          setContent({ filler_percent: value ?? 0 }),
        )}
      />
      <p className={together.problem === undefined ? classes.hint : classes.failure}>
        Together {formatNumber(sum, 1)} %. <Sentence>{together.problem}</Sentence>
      </p>
    </>
  );
}
