import { Stages } from '../design/Stages';

/** The stages of a formula. */
export function FormulaStages({ formulaId }: { formulaId: string }) {
  const at = `/formulas/${formulaId}`;
  return (
    <Stages
      label="Stages of the formula"
      stages={[
        { to: at, label: 'Design', end: true },
        { to: `${at}/solve`, label: 'Solve' },
        { to: `${at}/swap`, label: 'Swap' },
        { to: `${at}/compare`, label: 'Compare' },
        { to: `${at}/history`, label: 'History' },
      ]}
    />
  );
}
