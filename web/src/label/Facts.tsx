import { SegmentedControl, TextInput } from '@mantine/core';

import type { LabelDesign } from '../api/types';
import { shortDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import classes from './Label.module.css';
import { LabelNumber, useLabel } from './LabelContext';

/** The net weight that may be printed, dates, and what scents bring that has to be named. */
export function Facts() {
  const { draft, view, change } = useLabel();
  const { design } = draft;
  return (
    <>
      <Panel title={view.net_ml === null ? 'Net weight' : 'Net content'}>
        {view.net_ml !== null ? (
          <p data-testid="net-content">
            <b>{formatNumber(view.net_ml, 0)} mL</b> in a bottle.
          </p>
        ) : view.net === null ? (
          <p className="muted">Nothing is known of its bars yet: cut it in Cure, or type a weight.</p>
        ) : (
          <dl className={classes.tiles}>
            <div>
              <dt>printed</dt>
              <dd data-testid="net-printed">{view.printed_g === null ? '–' : formatNumber(view.printed_g, 1)} g</dd>
            </div>
            <div>
              <dt>95 % weigh at least{view.last_sale === null ? '' : `, ${shortDate(view.last_sale)}`}</dt>
              <dd>{formatNumber(view.net.at_least_g, 1)} g</dd>
            </div>
          </dl>
        )}
        {view.net_ml === null && (
          <SegmentedControl
            fullWidth
            value={design.net_rule}
            onChange={(next) => change({ net_rule: next as LabelDesign['net_rule'] })}
            data={[
              { value: 'minimum', label: 'minimum' },
              { value: 'average', label: 'average quantity' },
            ]}
            aria-label="Rule of the net weight"
            data-testid="net-rule"
          />
        )}
        {view.net !== null && (
          <p className={classes.about}>
            <Sentence>{view.net.words}</Sentence>
          </p>
        )}
        <div className={classes.fields}>
          {view.net_ml === null && <LabelNumber label="Print another weight" field="net_g" unit="g" value={design.net_g} placeholder={view.net === null ? '' : String(view.net.printed_g)} onChange={(net_g) => change({ net_g }, 'net')} onEmpty={() => change({ net_g: null }, 'net')} />}
          <TextInput type="date" label="Sold at the latest" value={design.last_sale ?? view.last_sale ?? ''} onChange={(event) => change({ last_sale: event.currentTarget.value || null })} data-testid="last-sale" />
          <TextInput type="date" label="Best before" value={design.best_before ?? view.best_before ?? ''} onChange={(event) => change({ best_before: event.currentTarget.value || null })} data-testid="best-before" />
        </div>
        <p className={classes.about}>{design.best_before === null ? 'The best before is an estimate from the shelf life of its oils; it is printed as month and year.' : 'The best before was set by you.'}</p>
      </Panel>
      {view.allergens.length > 0 && (
        <Panel title="To be named" aside="fragrance allergens, from 0.01 % of the bar">
          <ul className={classes.allergens} data-testid="allergens">
            {view.allergens.map((one) => (
              <li key={one.name} data-named={one.is_named}>
                <b>{one.name}</b> {one.percent === null ? 'share not known: named' : `${formatNumber(one.percent, 4)} % of the bar${one.is_named ? '' : ': not needed'}`}
                <small> in {one.scents.join(', ')}</small>
              </li>
            ))}
          </ul>
        </Panel>
      )}
    </>
  );
}
