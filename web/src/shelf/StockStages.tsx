import { Stages } from '../design/Stages';

/** The parts of the stock. */
export function StockStages() {
  return (
    <Stages
      label="Parts of the stock"
      stages={[
        { to: '/stock', label: 'On the shelf', end: true },
        { to: '/stock/buying', label: 'To buy' },
        { to: '/stock/materials', label: 'Own materials' },
      ]}
    />
  );
}
