/* What of the bench stands further down, or opens later: one file of code, read after the first drawing. */
export { ChainMap } from '../design/scales/ChainMap';
export { ExplanationDrawer } from '../design/ExplanationDrawer';
export { BarPanel } from './bar/BarPanel';
export { BenchScales } from './BenchScales';
export { CompositionPanel } from './composition/CompositionPanel';
