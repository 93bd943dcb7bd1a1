import { Switch, TextInput } from '@mantine/core';

import type { LabelDesign } from '../api/types';
import buttons from '../design/buttons.module.css';
import { Panel } from '../design/Panel';
import { SelectField } from '../design/SelectField';
import classes from './Label.module.css';
import { useLabel } from './LabelContext';

const LANGUAGES: { value: LabelDesign['languages'][number]; label: string }[] = [
  { value: 'en', label: 'English' },
  { value: 'de', label: 'Deutsch' },
  { value: 'fr', label: 'Français' },
  { value: 'es', label: 'Español' },
];
const CAUTIONS: { value: LabelDesign['cautions'][number]; label: string }[] = [
  { value: 'washing', label: 'for washing only' },
  { value: 'eyes', label: 'keep out of eyes' },
  { value: 'dry', label: 'keep dry' },
  { value: 'stop', label: 'stop if skin reacts' },
  { value: 'children', label: 'away from small children' },
];

/** What the label says, in the maker's own words and the fixed ones of each language. */
export function Says() {
  const { draft, view, change } = useLabel();
  const { design } = draft;
  const line = (field: 'name' | 'maker' | 'address' | 'lot_code' | 'may_contain' | 'recycling' | 'price' | 'qr_address', label: string, placeholder = '') => (
    <TextInput
      label={label}
      value={design[field]}
      placeholder={placeholder}
      maxLength={field === 'lot_code' ? 40 : field === 'price' ? 20 : field === 'qr_address' ? 300 : 160}
      onChange={(event) => change({ [field]: event.currentTarget.value }, field)}
      onBlur={draft.closeStep}
      data-testid={`label-${field}`}
    />
  );
  const toggled = <T,>(list: readonly T[], one: T) => (list.includes(one) ? list.filter((other) => other !== one) : [...list, one]);
  return (
    <Panel title="What it says">
      <fieldset className={classes.group}>
        <legend>Languages, the first one first</legend>
        <div className={buttons.toggles}>
          {LANGUAGES.map(({ value, label }) => {
            const next = toggled(design.languages, value);
            return (
              <button key={value} type="button" className={buttons.toggle} lang={value} aria-pressed={design.languages.includes(value)} disabled={next.length === 0} onClick={() => change({ languages: next })} data-testid={`language-${value}`}>
                {label}
              </button>
            );
          })}
        </div>
      </fieldset>
      <div className={classes.fields}>
        {line('name', 'Name')}
        {line('maker', 'Maker')}
        {line('address', 'Address')}
        {line('lot_code', 'Lot code', view.code)}
        {line('may_contain', 'May contain traces of', 'from shared tools')}
        {line('recycling', 'Recycling note', 'such as: paper, recycle')}
        {design.shape === 'shelf' && line('price', 'Price')}
        <SelectField
          label="INCI as in"
          showLabel
          value={design.region}
          options={[
            { value: 'europe', label: 'Europe (Aqua, Parfum)' },
            { value: 'north_america', label: 'North America (Water, Fragrance)' },
          ]}
          onChange={(region) => change({ region })}
        />
        <SelectField
          label="QR code"
          showLabel
          value={design.qr}
          options={[
            { value: '', label: 'none' },
            { value: 'batch', label: 'opens the page of the batch' },
            { value: 'own', label: 'opens an address of your own' },
          ]}
          onChange={(qr) => change({ qr })}
          testId="label-qr"
        />
        {design.qr === 'own' && line('qr_address', 'Address of the code', 'https://')}
      </div>
      <fieldset className={classes.group}>
        <legend>Cautions</legend>
        <div className={buttons.toggles}>
          {CAUTIONS.map(({ value, label }) => (
            <button key={value} type="button" className={buttons.toggle} aria-pressed={design.cautions.includes(value)} onClick={() => change({ cautions: CAUTIONS.map((one) => one.value).filter((one) => toggled(design.cautions, value).includes(one)) })}>
              {label}
            </button>
          ))}
        </div>
      </fieldset>
      <Switch mt={10} label="Ounces beside grams" checked={design.in_ounces} onChange={(event) => change({ in_ounces: event.currentTarget.checked })} />
    </Panel>
  );
}
