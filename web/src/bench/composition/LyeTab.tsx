import { useReference } from '../../api/queries';
import type { Formula, Koh, WaterRule } from '../../api/types';
import { formatNumber, parseRatio } from '../../design/quantity';
import { SelectField } from '../../design/SelectField';
import { useBench } from '../BenchContext';
import classes from './Composition.module.css';
import { SetNumber } from './SetNumber';

type LyeKind = 'naoh' | 'both' | 'koh';

const LYE_KINDS: { value: LyeKind; label: string }[] = [
  { value: 'naoh', label: 'NaOH' },
  { value: 'both', label: 'both' },
  { value: 'koh', label: 'KOH' },
];

interface WaterEntry {
  rule: WaterRule;
  label: string;
  unit: string;
  decimals: number;
  step: number;
}

const WATER_RULES: WaterEntry[] = [
  { rule: 'lye_concentration_percent', label: 'Lye concentration', unit: '%', decimals: 1, step: 0.5 },
  { rule: 'water_to_lye', label: 'Water : lye', unit: ':1', decimals: 2, step: 0.05 },
  { rule: 'percent_of_oils', label: '% of oils', unit: '%', decimals: 1, step: 0.5 },
  { rule: 'discount_percent', label: 'Discount', unit: '%', decimals: 1, step: 1 },
];

function kindOf(formula: Formula): LyeKind {
  const koh = formula.lye.koh;
  if (!koh) return 'naoh';
  return koh.value === 100 ? 'koh' : 'both';
}

function withKoh(formula: Formula, change: (koh: Koh) => Koh): Formula {
  const koh = formula.lye.koh ?? { by: 'saponification_percent', value: null, purity_percent: null };
  return { ...formula, lye: { ...formula.lye, koh: change(koh) } };
}

function chooseLye(formula: Formula, kind: LyeKind, starting: Record<string, Koh>): Formula {
  if (kind === 'naoh') return { ...formula, lye: { ...formula.lye, koh: null } };
  return withKoh(formula, (koh) => ({ ...koh, ...starting[kind], purity_percent: koh.purity_percent }));
}

/** Which lye, how pure, how much oil it leaves, and the water in whichever of four ways. */
export function LyeTab() {
  const { draft, live } = useBench();
  const { formula } = draft;
  const kind = kindOf(formula);
  const { purposes, starting_koh: startingKoh } = useReference();
  const makesPaste = purposes.find((purpose) => purpose.id === formula.purpose)?.makes === 'paste';
  return (
    <>
      <div className={classes.fields}>
        <SelectField
          showLabel
          label="Lye"
          value={kind}
          options={LYE_KINDS}
          onChange={(next) => draft.edit((now) => chooseLye(now, next, startingKoh))}
          testId="lye-kind"
        />
        <SetNumber
          label="Superfat"
          term="superfat"
          field="superfat_percent"
          value={formula.superfat_percent}
          step={0.5}
          change={(now, value) => ({ ...now, superfat_percent: value })}
        />
        {kind !== 'koh' && (
          <SetNumber
            label="NaOH purity"
            term="purity"
            field="lye.naoh_purity_percent"
            value={formula.lye.naoh_purity_percent}
            step={0.5}
            change={(now, value) => ({ ...now, lye: { ...now.lye, naoh_purity_percent: value } })}
          />
        )}
        {kind !== 'naoh' && (
          <SetNumber
            label="KOH purity"
            term="purity"
            field="lye.koh.purity_percent"
            value={formula.lye.koh?.purity_percent}
            step={0.5}
            change={(now, value) => withKoh(now, (koh) => ({ ...koh, purity_percent: value }))}
          />
        )}
        {kind === 'both' && <KohShare />}
      </div>
      <div className={classes.waters}>
        {WATER_RULES.map((correction) => {
          const leads = formula.water.by === correction.rule;
          return (
            <SetNumber
              key={correction.rule}
              label={correction.label}
              field={`water.${correction.rule}`}
              value={leads ? formula.water.value : live.result?.water[correction.rule]}
              unit={correction.unit}
              step={correction.step}
              format={(value) => formatNumber(value, correction.decimals)}
              leading={leads}
              problemField={leads ? 'water.value' : ''}
              testId={correction.rule}
              change={(now, value) => ({ ...now, water: { by: correction.rule, value } })}
            />
          );
        })}
      </div>
      {makesPaste && <DilutionField />}
    </>
  );
}

/** KOH by share of the saponification or as a ratio of weights: the one that was typed leads. */
function KohShare() {
  const { draft, live } = useBench();
  const koh = draft.formula.lye.koh;
  if (!koh) return null;
  const byShare = koh.by === 'saponification_percent';
  const setKoh = (by: Koh['by']) => (now: Formula, value: number | null) =>
    withKoh(now, (before) => ({ ...before, by, value }));
  return (
    <>
      <SetNumber
        label="KOH of the soap"
        field="lye.koh.saponification_percent"
        value={byShare ? koh.value : live.result?.lye.koh_share_percent}
        step={1}
        leading={byShare}
        problemField={byShare ? 'lye.koh.value' : ''}
        change={setKoh('saponification_percent')}
      />
      <SetNumber
        label="KOH : NaOH, g"
        field="lye.koh.lye_weight_percent"
        value={byShare ? live.result?.lye.koh_weight_percent : koh.value}
        unit=""
        step={1}
        leading={!byShare}
        problemField={byShare ? '' : 'lye.koh.value'}
        format={(value) => `${formatNumber(value, 1, 0)}:${formatNumber(100 - value, 1, 0)}`}
        parse={parseRatio}
        change={setKoh('lye_weight_percent')}
      />
    </>
  );
}

function DilutionField() {
  const { draft, live } = useBench();
  const { dilution } = draft.formula;
  const paste = live.result?.paste;
  return (
    <div className={classes.dilution}>
      <SetNumber
        label="Thin to, % soap"
        field="dilution.soap_percent"
        value={dilution?.soap_percent}
        step={1}
        change={(now, value) => ({ ...now, dilution: value === null ? null : { soap_percent: value } })}
      />
      <p>
        {paste
          ? `The paste holds ${formatNumber(paste.soap_percent, 0)} % soap. Leave it empty to keep it as paste.`
          : 'Leave it empty to keep it as paste.'}
      </p>
    </div>
  );
}
