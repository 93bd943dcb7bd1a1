import type { ComponentType } from 'react';
import { replace, useParams, type LoaderFunctionArgs, type RouteObject } from 'react-router';

import { materialsQuery, oilsQuery } from '../api/queries';
import { client } from '../api/queryClient';
import { LAST_FORMULA } from '../bench/lastFormula';
import { pause } from '../start/pause';
import { Failure } from './Failure';
import { Missing } from './Missing';
import { Pending } from './Pending';
import { Shell } from './Shell';

/** Comparing used to be a place of its own, not a stage of a formula. */
function oldCompare({ request }: LoaderFunctionArgs) {
  const { search, searchParams } = new URL(request.url);
  const id = searchParams.get('with')?.split(/[,:]/)[0] || localStorage.getItem(LAST_FORMULA);
  return replace(id ? `/formulas/${id}/compare${search}` : '/formulas');
}

const whole: RouteObject = { hydrateFallbackElement: <Pending />, errorElement: <Failure /> };

/** Asked for while the code of the stage is still under way; the stage says what it waits for. */
function oilsAhead() {
  void pause().then(() => client.prefetchQuery(oilsQuery));
  void pause().then(() => client.prefetchQuery(materialsQuery));
  return null;
}

/** The screen of one thing. Led on to another, it begins anew: nothing that was in hand for the first is taken for the second. */
function ofOne(Screen: ComponentType) {
  return function OfOne() {
    return <Screen key={Object.values(useParams()).join('/')} />;
  };
}

/** Every address. A screen's code is fetched when it is first opened. */
export const routes: RouteObject[] = [
  {
    ...whole,
    path: 'batches/:batchId/make',
    lazy: async () => ({ Component: ofOne((await import('../make/MakeDay')).MakeDay) }),
  },
  {
    ...whole,
    path: 'preparations/:preparationId/make',
    lazy: async () => ({ Component: ofOne((await import('../preparations/PreparationMake')).PreparationMake) }),
  },
  {
    ...whole,
    element: <Shell />,
    children: [
      {
        errorElement: <Failure />,
        children: [
          { index: true, lazy: async () => ({ Component: (await import('../today/Today')).Today }) },
          { path: 'week', lazy: async () => ({ Component: (await import('../today/Week')).Week }) },
          { path: 'formulas', lazy: async () => ({ Component: (await import('../formulas/FormulaList')).FormulaList }) },
          { path: 'formulas/:formulaId', loader: oilsAhead, lazy: async () => ({ Component: ofOne((await import('../bench/Bench')).Bench) }) },
          { path: 'formulas/:formulaId/solve', loader: oilsAhead, lazy: async () => ({ Component: ofOne((await import('../solve/Solve')).Solve) }) },
          { path: 'formulas/:formulaId/swap', loader: oilsAhead, lazy: async () => ({ Component: ofOne((await import('../swap/Swap')).Swap) }) },
          { path: 'formulas/:formulaId/compare', lazy: async () => ({ Component: ofOne((await import('../compare/Compare')).Compare) }) },
          { path: 'formulas/:formulaId/history', lazy: async () => ({ Component: ofOne((await import('../history/History')).History) }) },
          { path: 'formulas/:formulaId/recipe', lazy: async () => ({ Component: ofOne((await import('../formulas/Recipe')).Recipe) }) },
          { path: 'batches', lazy: async () => ({ Component: (await import('../batch/BatchList')).BatchList }) },
          { path: 'batches/:batchId', lazy: async () => ({ Component: ofOne((await import('../batch/BatchDesk')).BatchDesk) }) },
          { path: 'batches/:batchId/cure', lazy: async () => ({ Component: ofOne((await import('../cure/Cure')).Cure) }) },
          { path: 'batches/:batchId/tests', lazy: async () => ({ Component: ofOne((await import('../trials/Tests')).Tests) }) },
          { path: 'batches/:batchId/label', lazy: async () => ({ Component: ofOne((await import('../label/Label')).Label) }) },
          { path: 'batches/:batchId/beside/:otherId', lazy: async () => ({ Component: ofOne((await import('../trials/Beside')).Beside) }) },
          { path: 'batches/:batchId/log', lazy: async () => ({ Component: ofOne((await import('../make/Log')).Log) }) },
          { path: 'batches/:batchId/sheet', lazy: async () => ({ Component: ofOne((await import('../batch/SheetView')).SheetView) }) },
          { path: 'preparations', lazy: async () => ({ Component: (await import('../preparations/PreparationList')).PreparationList }) },
          { path: 'preparations/:preparationId', lazy: async () => ({ Component: ofOne((await import('../preparations/PreparationPlan')).PreparationPlan) }) },
          { path: 'preparations/:preparationId/label', lazy: async () => ({ Component: ofOne((await import('../label/Label')).Label) }) },
          { path: 'comparisons/:comparisonId', lazy: async () => ({ Component: ofOne((await import('../trials/Comparison')).Comparison) }) },
          { path: 'trials/:trialId', lazy: async () => ({ Component: ofOne((await import('../trials/Trial')).Trial) }) },
          { path: 'learning', lazy: async () => ({ Component: (await import('../trials/Learning')).Learning }) },
          { path: 'stock', lazy: async () => ({ Component: (await import('../shelf/Lots')).Lots }) },
          { path: 'stock/buying', lazy: async () => ({ Component: (await import('../shelf/Buying')).Buying }) },
          { path: 'stock/materials', lazy: async () => ({ Component: (await import('../shelf/Shelf')).Shelf }) },
          { path: 'bring-in/:kind', lazy: async () => ({ Component: ofOne((await import('../imports/BringIn')).BringIn) }) },
          { path: 'guide', lazy: async () => ({ Component: (await import('../guide/Why')).Why }) },
          { path: 'guide/why/:pageId', lazy: async () => ({ Component: ofOne((await import('../guide/Why')).WhyPage) }) },
          { path: 'guide/faults', lazy: async () => ({ Component: (await import('../guide/Faults')).Faults }) },
          { path: 'guide/faults/:symptom', lazy: async () => ({ Component: ofOne((await import('../guide/Faults')).Fault) }) },
          { path: 'guide/practice', lazy: async () => ({ Component: (await import('../guide/Practice')).Practice }) },
          { path: 'guide/practice/:kind', lazy: async () => ({ Component: ofOne((await import('../guide/Practice')).PracticeOne) }) },
          { path: 'guide/words', lazy: async () => ({ Component: (await import('../guide/Words')).Words }) },
          { path: 'guide/safety', lazy: async () => ({ Component: (await import('../guide/Safety')).Safety }) },
          { path: 'guide/backups', lazy: async () => ({ Component: (await import('../guide/Backups')).Backups }) },
          { path: 'guide/tablets', lazy: async () => ({ Component: (await import('../guide/Tablets')).Tablets }) },
          { path: 'guide/workshop', lazy: async () => ({ Component: (await import('../guide/YourWorkshop')).YourWorkshop }) },
          ...(import.meta.env.DEV
            ? [{ path: 'design', lazy: async () => ({ Component: (await import('../design/Gallery')).Gallery }) }]
            : []),
          { path: 'trials', loader: oldCompare },
          { path: 'shelf', loader: () => replace('/stock') },
          { path: '*', element: <Missing title="There is no such page" message="The address may have a slip in it." /> },
        ],
      },
    ],
  },
];
