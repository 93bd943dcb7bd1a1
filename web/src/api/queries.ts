import { useQuery, useSuspenseQuery } from '@tanstack/react-query';

import { useCallback, useMemo } from 'react';

import { answered, api } from './client';
import type { Formula, WeightUnitId } from './types';

const FOREVER = Number.POSITIVE_INFINITY;

export function useReference() {
  return useSuspenseQuery({
    queryKey: ['reference'],
    queryFn: () => answered(api.GET('/api/reference')),
    staleTime: FOREVER,
  }).data;
}

export function useOils() {
  return useSuspenseQuery({
    queryKey: ['oils'],
    queryFn: () => answered(api.GET('/api/oils')),
    staleTime: FOREVER,
  }).data;
}

export function useHealth() {
  return useQuery({ queryKey: ['health'], queryFn: () => answered(api.GET('/api/health')), staleTime: FOREVER }).data;
}

export function useFormulas(search: string, deleted: boolean) {
  return useQuery({
    queryKey: ['formulas', search, deleted],
    queryFn: () => answered(api.GET('/api/formulas', { params: { query: { search, deleted } } })),
    placeholderData: (previous) => previous,
  });
}

export function useVersions(formulaId: string) {
  return useQuery({
    queryKey: ['versions', formulaId],
    queryFn: () => answered(api.GET('/api/formulas/{formula_id}/versions', at(formulaId))),
  });
}

/** The result of a formula that does not change, such as a kept version. */
export function useResultOf(formula: Formula | null) {
  return useQuery({
    queryKey: ['result', formula],
    queryFn: async () => (formula ? (await calculate(formula, 'g')).result : null),
    enabled: formula !== null,
    staleTime: FOREVER,
  }).data;
}

/** The result of a formula, or what still stands in their way. */
export function calculate(formula: Formula, weightUnit: WeightUnitId) {
  return answered(api.POST('/api/compute/report', { body: formula, params: { query: { weight_unit: weightUnit } } }));
}

export function at(formulaId: string) {
  return { params: { path: { formula_id: formulaId } } };
}

/** The maker's own materials, ready to be used in a formula. */
export function useMaterials() {
  return useSuspenseQuery({
    queryKey: ['materials', false],
    queryFn: () => answered(api.GET('/api/materials')),
  }).data;
}

/** Everything that can go into a blend: the maker's own materials first, then the catalogue. */
export function useOilsAndMaterials() {
  const oils = useOils();
  const materials = useMaterials();
  return useMemo(() => [...materials.map((material) => material.summary), ...oils], [materials, oils]);
}

/** What a formula has to carry to name an oil: nothing for those of the catalogue. */
export function useDefinitions() {
  const materials = useMaterials();
  return useCallback(
    (oil: string) => materials.find((one) => one.record.material.id === oil)?.definitions ?? [],
    [materials],
  );
}

/** What the maker says of their oils, by id. */
export function useOilNotes() {
  return useQuery({ queryKey: ['oil-notes'], queryFn: () => answered(api.GET('/api/oil-notes')) });
}

/** Price per kg by oil id, in the maker's own currency. */
export function usePrices() {
  return useQuery({ queryKey: ['prices'], queryFn: () => answered(api.GET('/api/prices')) });
}

/** Every mould of the workshop, with what it takes. */
export function useMoulds() {
  return useQuery({ queryKey: ['moulds'], queryFn: () => answered(api.GET('/api/moulds')) }).data ?? [];
}

/** Every batch, newest first. */
export function useBatches() {
  return useQuery({ queryKey: ['batches'], queryFn: () => answered(api.GET('/api/batches')), refetchOnMount: 'always' });
}

/** What earlier batches of a formula noted for next time, newest first. */
export function useNextTime(formulaId: string) {
  return (
    useQuery({
      queryKey: ['next-time', formulaId],
      queryFn: () => answered(api.GET('/api/formulas/{formula_id}/next-time', at(formulaId))),
      enabled: formulaId !== '',
      retry: false,
      staleTime: 0,
    }).data ?? []
  );
}
