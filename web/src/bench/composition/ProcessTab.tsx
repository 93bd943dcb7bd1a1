import { useReference } from '../../api/queries';
import type { Choice, Formula, Process } from '../../api/types';
import { SelectField } from '../../design/SelectField';
import { formatNumber } from '../../design/quantity';
import { useTemperature } from '../../design/temperature';
import { useBench } from '../BenchContext';
import classes from './Composition.module.css';
import { SetNumber } from './SetNumber';

/** How it is made, and on which scale. */
export function ProcessTab() {
  const { draft } = useBench();
  const temperature = useTemperature();
  const { formula } = draft;
  const process = formula.process;
  const { choices } = useReference();
  const options = <Value extends string>(about: string) => (choices[about] ?? []) as (Choice & { value: Value })[];
  const change = (patch: Partial<Process>) => draft.edit((now) => ({ ...now, process: { ...now.process, ...patch } }));
  return (
    <div className={classes.fields}>
        <SelectField
          showLabel
          label="Process"
          value={process.method}
          options={options<NonNullable<Process['method']>>('method')}
          onChange={(method) => change({ method })}
        />
        <SelectField
          showLabel
          label="Gel"
          value={process.gel}
          options={options<NonNullable<Process['gel']>>('gel')}
          onChange={(gel) => change({ gel })}
          testId="gel"
        />
        <SelectField
          showLabel
          label="Wash water"
          value={formula.wash_water ?? 'soft'}
          options={options<NonNullable<Formula['wash_water']>>('wash_water')}
          onChange={(wash_water) => draft.edit((now) => ({ ...now, wash_water }))}
          testId="wash-water"
        />
        <SetNumber
          label="Batter at"
          field="process.batter_temperature_c"
          value={process.batter_temperature_c}
          unit={temperature.unit}
          step={temperature.unit === '°F' ? 5 / 9 : 1}
          format={(celsius) => formatNumber(temperature.fromCelsius(celsius), 1, 0)}
          parse={temperature.parse}
          change={(now, value) => ({ ...now, process: { ...now.process, batter_temperature_c: value } })}
        />
        <SetNumber
          label="Cure"
          field="process.cure_weeks"
          value={process.cure_weeks}
          unit="weeks"
          step={1}
          format={(value) => formatNumber(value, 1, 0)}
          change={(now, value) => ({ ...now, process: { ...now.process, cure_weeks: value } })}
        />
        <SetNumber
          label="Master lye"
          field="lye.master_percent"
          value={formula.lye.master_percent}
          step={1}
          change={(now, value) => ({ ...now, lye: { ...now.lye, master_percent: value } })}
        />
        <SetNumber
          label="Purity ±"
          field="lye.purity_tolerance_percent"
          value={formula.lye.purity_tolerance_percent}
          unit="points"
          step={0.1}
          format={(value) => formatNumber(value, 2, 0)}
          change={(now, value) => ({ ...now, lye: { ...now.lye, purity_tolerance_percent: value } })}
        />
        <SetNumber
          label="Scale step"
          field="scale_step_g"
          value={formula.scale_step_g}
          unit="g"
          step={0.1}
          format={(value) => formatNumber(value, 3, 0)}
          change={(now, value) => ({ ...now, scale_step_g: value })}
        />
    </div>
  );
}
