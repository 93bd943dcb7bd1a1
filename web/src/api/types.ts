import type { components } from './schema';

type Schemas = components['schemas'];

export type Acid = Schemas['Acid'];
export type Blend = Schemas['PercentBlend'] | Schemas['WeightBlend'];
export type Formula = Schemas['Formula'];
export type FormulaRecord = Schemas['FormulaRecord'];
export type FormulaSummary = Schemas['FormulaSummary'];
export type OilSummary = Schemas['OilSummary'];
export type PercentBlend = Schemas['PercentBlend'];
export type Problem = Schemas['Problem'];
export type Purpose = Schemas['Purpose'];
export type Quality = Schemas['Quality'];
export type QualityFigures = Schemas['QualityFigures'];
export type Reckoning = Schemas['Reckoning'];
export type Reference = Schemas['Reference'];
export type State = Reckoning['state'];
export type VersionRecord = Schemas['VersionRecord'];
export type WaterRule = Schemas['Water']['by'];
export type WeightBlend = Schemas['WeightBlend'];
export type WeightUnit = Schemas['WeightUnit'];
export type WeightUnitId = WeightUnit['id'];
export type Working = Schemas['Working'];
