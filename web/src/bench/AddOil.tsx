import { useDraggable } from '@dnd-kit/core';
import { Combobox } from '@mantine/core';
import { useCallback, useEffect, useLayoutEffect, useRef, type RefObject } from 'react';

import { useDefinitions, useOilsAndMaterials } from '../api/queries';
import type { OilSummary } from '../api/types';
import { parseNumber, parseWeight } from '../design/quantity';
import { useSettings } from '../app/settings';
import { Later } from '../design/Later';
import { Swatch } from '../design/Swatch';
import classes from '../design/PickOne.module.css';
import { useNamedSearch } from '../design/useNamedSearch';
import { useBench } from './BenchContext';
import { addOil, basisOf } from './edits';

export const FOCUS_ADD_OIL = 'sapolin:add-oil';

interface AddOilProps {
  /** Its place among the oils; also of one that was there. */
  onAdded: (index: number) => void;
}

/** What was typed before the search was drawn. */
interface Early {
  text: string;
  hasFocus: boolean;
}

/** Add an oil by search (`shea`), with its amount (`shea 5`), or by dragging a result onto the loaf. */
export function AddOil(props: AddOilProps) {
  const early = useRef<Early>({ text: '', hasFocus: false });
  return (
    <Later height={42} instead={<EarlyField early={early} />}>
      <OilSearch {...props} early={early} />
    </Later>
  );
}

/** Stands where the search will be; what is typed into it goes on there. */
function EarlyField({ early }: { early: RefObject<Early> }) {
  const leaveBehind = useCallback(
    (input: HTMLInputElement) => {
      const focus = () => input.focus();
      window.addEventListener(FOCUS_ADD_OIL, focus);
      return () => {
        window.removeEventListener(FOCUS_ADD_OIL, focus);
        early.current = { text: input.value, hasFocus: document.activeElement === input };
      };
    },
    [early],
  );
  return <input ref={leaveBehind} className={classes.input} placeholder={usePlaceholder()} aria-label="Add an oil" />;
}

function usePlaceholder(): string {
  const { draft } = useBench();
  const { weightUnit } = useSettings();
  return basisOf(draft.formula.blend) !== 'weight_g' ? 'Add an oil: shea 5' : `Add an oil: shea 50 ${weightUnit.id}`;
}

function OilSearch({ onAdded, early }: AddOilProps & { early: RefObject<Early> }) {
  const { draft } = useBench();
  const oils = useOilsAndMaterials();
  const definitionsOf = useDefinitions();
  const { weightUnit, weightUnits, letterShortcuts } = useSettings();
  const input = useRef<HTMLInputElement>(null);
  const placeholder = usePlaceholder();
  const { blend } = draft.formula;

  useEffect(() => {
    const focus = () => input.current?.focus();
    window.addEventListener(FOCUS_ADD_OIL, focus);
    return () => window.removeEventListener(FOCUS_ADD_OIL, focus);
  }, []);

  const { words, found, combobox, onOptionSubmit, type, field } = useNamedSearch(oils, (oilId, amount) => {
    const present = blend.lines.findIndex((line) => line.oil === oilId);
    if (present >= 0) {
      onAdded(present);
      return;
    }
    const parsed = basisOf(blend) !== 'weight_g' ? parseNumber(amount) : parseWeight(amount, weightUnit.id, weightUnits);
    const value = parsed.ok ? parsed.value : null;
    draft.edit((formula) => addOil(formula, oilId, value, definitionsOf(oilId)));
    // With its amount the entry is whole: the next one can be typed at once.
    if (value === null) onAdded(blend.lines.length);
  });

  useLayoutEffect(() => {
    const { text, hasFocus } = early.current;
    early.current = { text: '', hasFocus: false };
    if (hasFocus) input.current?.focus();
    if (text !== '') type(text);
    // Once, when it takes the place of the early field.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  return (
    <Combobox store={combobox} onOptionSubmit={onOptionSubmit} position="bottom-start" width={420} shadow="md" keepMounted={false}>
      <Combobox.Target>
        <div className={classes.wrap}>
          <input {...field} ref={input} className={classes.input} placeholder={placeholder} aria-label="Add an oil" data-testid="add-oil" />
          {letterShortcuts && <span className={classes.key}>A</span>}
        </div>
      </Combobox.Target>
      <Combobox.Dropdown className={classes.list}>
        <Combobox.Options mah={300} style={{ overflowY: 'auto' }} aria-label="Oils">
          {found.map((oil) => (
            <OilOption key={oil.id} oil={oil} present={blend.lines.some((line) => line.oil === oil.id)} />
          ))}
          {found.length === 0 && <Combobox.Empty>Nothing in the catalogue or on your shelf matches “{words}”. Add your own materials on the shelf.</Combobox.Empty>}
        </Combobox.Options>
        <div className={classes.hint}>Enter adds · drag onto the loaf to place</div>
      </Combobox.Dropdown>
    </Combobox>
  );
}

function OilOption({ oil, present }: { oil: OilSummary; present: boolean }) {
  const { setNodeRef, listeners } = useDraggable({ id: oil.id });
  const tags = [present ? 'in the blend' : '', oil.own ? 'own' : '', oil.palm_derived === 'yes' ? 'palm' : '', oil.allergens].filter(Boolean);
  return (
    <Combobox.Option ref={setNodeRef} value={oil.id} {...listeners} style={{ touchAction: 'pan-y' }}>
      <span className={classes.option}>
        <Swatch group={oil.group} hard={oil.hard} />
        {oil.name}
        <span className={classes.tag}>{tags.join(' · ')}</span>
        <small>{oil.jobs}</small>
      </span>
    </Combobox.Option>
  );
}
