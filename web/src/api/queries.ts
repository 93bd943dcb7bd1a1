import { keepPreviousData, queryOptions, useInfiniteQuery, useQuery, useSuspenseQuery } from '@tanstack/react-query';

import { useCallback, useMemo } from 'react';

import { answered, api } from './client';
import type { operations } from './schema';
import type { Formula, WeightUnitId } from './types';

const FOREVER = Number.POSITIVE_INFINITY;

export const referenceQuery = queryOptions({
  queryKey: ['reference'],
  queryFn: () => answered(api.GET('/api/reference')),
  staleTime: FOREVER,
});

export function useReference() {
  return useSuspenseQuery(referenceQuery).data;
}

export const oilsQuery = queryOptions({
  queryKey: ['oils'],
  queryFn: () => answered(api.GET('/api/oils')),
  staleTime: FOREVER,
});

/** Parts of one screen come one after the other: what the first of them was told is still true for the last. */
export const HOLDS_MS = 5_000;

export const materialsQuery = queryOptions({
  queryKey: ['materials', false],
  queryFn: () => answered(api.GET('/api/materials')),
  staleTime: HOLDS_MS,
});

export function useOils() {
  return useSuspenseQuery(oilsQuery).data;
}

const LOOK_MS = 300_000;
/** While the server looks at its data for the first time since its start: what it finds is told soon. */
export const FIRST_LOOK_MS = 2_000;

export function useHealth() {
  return useQuery({ queryKey: ['health'], queryFn: () => answered(api.GET('/api/health')), staleTime: FOREVER, refetchInterval: ({ state }) => (state.data?.is_looking ? FIRST_LOOK_MS : LOOK_MS) }).data;
}

/** Whether this is a device that was paired for make day and rack alone. What it may not do is not offered. */
export function useIsLimited(): boolean {
  return useHealth()?.device.reach === 'make_and_rack';
}

export type FormulaQuery = NonNullable<operations['list_formulas']['parameters']['query']>;
export type BatchQuery = NonNullable<operations['list_batches']['parameters']['query']>;

/** One page of formulas. */
export function useFormulas(query: FormulaQuery) {
  return useQuery({
    queryKey: ['formulas', query],
    queryFn: ({ signal }) => answered(api.GET('/api/formulas', { params: { query }, signal })),
    placeholderData: keepPreviousData,
  });
}

const PAGE = 60;

/** Formulas page by page, as the list asks for more. */
export function useFormulaPages(query: Omit<FormulaQuery, 'limit' | 'offset'>) {
  return useInfiniteQuery({
    queryKey: ['formulas', 'pages', query],
    queryFn: ({ pageParam, signal }) =>
      answered(api.GET('/api/formulas', { params: { query: { ...query, limit: PAGE, offset: pageParam } }, signal })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((sum, page) => sum + page.formulas.length, 0);
      return shown < last.total && last.formulas.length > 0 ? shown : undefined;
    },
    placeholderData: keepPreviousData,
  });
}

/** Batches page by page, newest first. */
export function useBatchPages(query: Omit<BatchQuery, 'limit' | 'offset'>, limit: number) {
  return useInfiniteQuery({
    queryKey: ['batches', 'pages', query, limit],
    queryFn: ({ pageParam, signal }) =>
      answered(api.GET('/api/batches', { params: { query: { ...query, limit, offset: pageParam } }, signal })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((sum, page) => sum + page.batches.length, 0);
      return shown < last.total && last.batches.length > 0 ? shown : undefined;
    },
    placeholderData: keepPreviousData,
    refetchOnMount: 'always',
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

/** The result of a formula as it is kept, asked for together with the formula itself. */
export function useKeptReport(formulaId: string, weightUnit: WeightUnitId) {
  return useQuery({
    queryKey: ['kept-report', formulaId, weightUnit],
    queryFn: () =>
      answered(api.GET('/api/formulas/{formula_id}/report', { params: { path: { formula_id: formulaId }, query: { weight_unit: weightUnit } } })),
    // Of use only while a screen opens: it is out of date with the first edit.
    gcTime: 0,
    retry: false,
    refetchOnReconnect: false,
    refetchOnWindowFocus: false,
  });
}

export function at(formulaId: string) {
  return { params: { path: { formula_id: formulaId } } };
}

/** The maker's own materials, ready to be used in a formula. */
export function useMaterials() {
  return useSuspenseQuery(materialsQuery).data;
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

/** What earlier batches of a formula noted for next time, newest first; ticked off or not. */
export function useNotes(formulaId: string) {
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

/** Those that still come back. */
export function useNextTime(formulaId: string): string[] {
  return useNotes(formulaId).flatMap((note) => (note.heeded_at === null ? [note.text] : []));
}

/** Gear, first aid, storage and the rest of the safety sheet; the words of first aid stand nowhere else. */
export function useSafetySheet() {
  return useQuery({ queryKey: ['safety'], queryFn: () => answered(api.GET('/api/guide/safety')), staleTime: Number.POSITIVE_INFINITY }).data;
}
