/** The bench around a formula, for the tests of its parts. */
import { screen, waitFor } from '@testing-library/react';
import { expect } from 'vitest';

import { answered, api } from '../api/client';
import type { Formula, FormulaRecord } from '../api/types';
import { Bench } from '../bench/Bench';
import { show } from './show';

const PATIENT = { timeout: 5000 };

const at = (record: FormulaRecord) => ({ params: { path: { formula_id: record.id } } });

/** Open the bench and wait for its first result, and for what is drawn later. */
export async function openBench(record: FormulaRecord) {
  const drawn = await show(<Bench />, { at: `/formulas/${record.id}`, route: '/formulas/:formulaId' });
  await waitFor(() => expect(screen.getByTestId('formula-state').dataset.freshness).toMatch(/fresh|stopped/), PATIENT);
  for (const tab of ['tab-additives', 'tab-expect']) await screen.findByTestId(tab, {}, PATIENT);
  return drawn;
}

/** The formula as the server has it now. */
export async function keptOf(record: FormulaRecord): Promise<Formula> {
  return (await answered(api.GET('/api/formulas/{formula_id}', at(record)))).formula;
}

export const isSaved = () => waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('saved'), PATIENT);
export const isFresh = () => waitFor(() => expect(screen.getByTestId('formula-state').dataset.freshness).toBe('fresh'), PATIENT);

/** A field of the bench by its test id. */
export const field = (testId: string) => screen.getByTestId<HTMLInputElement>(testId);
/** The number that an element shows, in whatever unit. */
export const numberIn = (element: HTMLElement) => parseFloat((element.textContent ?? '').replace(/[^\d.]/g, ''));
