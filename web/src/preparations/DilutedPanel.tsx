import type { PreparationReport } from '../api/types';
import { useReference } from '../api/queries';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import classes from './Preparations.module.css';

type Diluted = NonNullable<NonNullable<PreparationReport['prepared']>['diluted']>;

/** What the diluted soap will be like. */
export function DilutedPanel({ diluted }: { diluted: Diluted }) {
  const { qualities } = useReference();
  return (
    <Panel title="What it will be" aside="estimates">
      <p className={classes.lead} data-testid="thickness">
        <Sentence>{diluted.thickness.words}</Sentence>
      </p>
      <dl className={classes.qualities}>
        <dt>Soap</dt>
        <dd>{formatNumber(diluted.soap_percent, 1)} %</dd>
        <dt>Bottles</dt>
        <dd>
          {diluted.bottles} × {formatNumber(diluted.bottle_ml, 0)} mL
        </dd>
        <dt>Keeps</dt>
        <dd>{diluted.shelf_months >= 1 ? `${formatNumber(diluted.shelf_months, 0)} months` : `${formatNumber(diluted.shelf_months * 30.44, 0)} days`}</dd>
        {qualities
          .filter((one) => ['cleansing', 'conditioning', 'open_lather', 'oxidation_load'].includes(one.id))
          .map((one) => (
            <div key={one.id} style={{ display: 'contents' }}>
              <dt>{one.name}</dt>
              <dd>{formatNumber(diluted.qualities[one.id] ?? 0, 0)}</dd>
            </div>
          ))}
      </dl>
    </Panel>
  );
}
