import { useLocalStorage } from '@mantine/hooks';
import { createContext, use, useMemo, type ReactNode } from 'react';

import { useReference } from '../api/queries';
import type { WeightUnit, WeightUnitId } from '../api/types';
import type { TemperatureUnit } from '../design/temperature';

interface Settings {
  weightUnit: WeightUnit;
  weightUnits: WeightUnit[];
  setWeightUnit: (unit: WeightUnitId) => void;
  temperatureUnit: TemperatureUnit;
  setTemperatureUnit: (unit: TemperatureUnit) => void;
  /** Single-letter shortcuts can be switched off, for those who dictate or bump keys. */
  letterShortcuts: boolean;
  setLetterShortcuts: (on: boolean) => void;
}

const SettingsContext = createContext<Settings | null>(null);

export function SettingsProvider({ children }: { children: ReactNode }) {
  const { weight_units: weightUnits } = useReference();
  // Read before anything is drawn, so that nothing is drawn twice.
  const atOnce = { getInitialValueInEffect: false };
  const [unitId, setWeightUnit] = useLocalStorage<WeightUnitId>({ key: 'sapolin.weight-unit', defaultValue: 'g', ...atOnce });
  const [temperatureUnit, setTemperatureUnit] = useLocalStorage<TemperatureUnit>({ key: 'sapolin.temperature-unit', defaultValue: '°C', ...atOnce });
  const [letterShortcuts, setLetterShortcuts] = useLocalStorage({ key: 'sapolin.letter-shortcuts', defaultValue: true, ...atOnce });
  const weightUnit = weightUnits.find((unit) => unit.id === unitId) ?? (weightUnits[0] as WeightUnit);
  const settings = useMemo(
    () => ({
      weightUnit,
      weightUnits,
      setWeightUnit,
      temperatureUnit,
      setTemperatureUnit,
      letterShortcuts,
      setLetterShortcuts,
    }),
    [weightUnit, weightUnits, setWeightUnit, temperatureUnit, setTemperatureUnit, letterShortcuts, setLetterShortcuts],
  );
  return <SettingsContext value={settings}>{children}</SettingsContext>;
}

export function useSettings(): Settings {
  const settings = use(SettingsContext);
  if (settings === null) throw new Error('useSettings outside SettingsProvider');
  return settings;
}
