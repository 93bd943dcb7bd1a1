import { Button } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { Fragment } from 'react';
import { Link, useParams } from 'react-router';

import { answered, api } from '../api/client';
import { Missing } from '../app/Missing';
import { Sentence } from '../design/Sentence';
import classes from './Batch.module.css';
import { useSheetAddress } from './useSheetAddress';

/** The sheet on screen: the same words and weights as on paper. */
export function SheetView() {
  const { batchId = '' } = useParams();
  const address = useSheetAddress(batchId);
  const { data: sheet, error } = useQuery({
    queryKey: ['sheet-view', batchId],
    queryFn: () =>
      answered(api.GET('/api/batches/{batch_id}/sheet', { params: { path: { batch_id: batchId } } })),
    retry: false,
    staleTime: 0,
  });
  useDocumentTitle(`Sheet ${sheet?.code ?? ''} · Sapolin`);
  if (error !== null) return <Missing title="There is no sheet of this batch yet" message={error.message} />;
  if (sheet === undefined) return null;
  return (
    <article className={classes.sheet}>
      <div className={classes.header}>
        <h1 className={classes.title}>{sheet.title}</h1>
        <span className="muted">
          batch {sheet.code} · {sheet.formula}
        </span>
        <span className={classes.spring} />
        <Button component={Link} to={`/batches/${batchId}`}>
          Back to the plan
        </Button>
        <Button component="a" variant="filled" href={address('pdf')} target="_blank">
          Print
        </Button>
      </div>
      {sheet.forbidden.length > 0 && (
        <p className={classes.forbidden} role="alert">
          DO NOT MAKE. {sheet.forbidden.map((one, i) => (
            <Fragment key={i}>
              <Sentence>{one}</Sentence>{' '}
            </Fragment>
          ))}
        </p>
      )}
      <div className={classes.sheetColumns}>
        <div>
          {sheet.lessons.length > 0 && <h2 className={classes.group}>Lessons from last time</h2>}
          {sheet.lessons.map((lesson) => (
            <p key={lesson}>{lesson}</p>
          ))}
          <h2 className={classes.group}>First</h2>
          <ul className={classes.gear}>
            {sheet.gear.map((check) => (
              <li key={check}>{check}</li>
            ))}
          </ul>
          <h2 className={classes.group}>Before the lye</h2>
          <ul className={classes.gear}>
            {sheet.before_lye.map((check) => (
              <li key={check}>{check}</li>
            ))}
          </ul>
          <table className={classes.weights}>
            {sheet.sections.map((section) => (
              <tbody key={section.title || 'all'}>
                {section.title && (
                  <tr>
                    <th colSpan={4} scope="rowgroup">
                      {section.title}
                    </th>
                  </tr>
                )}
                {section.rows.map((row) => (
                  <tr key={row.name} data-caustic={row.caustic}>
                    <td>
                      {row.name} <small>{row.note}</small>
                    </td>
                    <td>{row.g} g</td>
                    <td>{row.oz} oz</td>
                    <td>{row.weighed_g && <b>{row.weighed_g} g weighed</b>}</td>
                  </tr>
                ))}
                {section.total && (
                  <tr className={classes.total}>
                    <td>{section.total.name}</td>
                    <td>{section.total.g} g</td>
                    <td>{section.total.oz} oz</td>
                    <td />
                  </tr>
                )}
              </tbody>
            ))}
          </table>
          <dl className={classes.facts}>
            {sheet.facts.map(({ name, value }) => (
              <div key={name}>
                <dt>{name}</dt>
                <dd><Sentence>{value}</Sentence></dd>
              </div>
            ))}
          </dl>
          {sheet.moulds.map((mould) => (
            <p key={JSON.stringify(mould)}><Sentence>{mould}</Sentence></p>
          ))}
        </div>
        <div>
          <h2 className={classes.group}>Lye on skin or in eyes</h2>
          {sheet.first_aid.map((words) => (
            <p key={words}>{words}</p>
          ))}
          <p>
            <b>
              Emergency: {sheet.emergency_number || 'no number entered'} · Poison service: {sheet.poison_number || 'no number entered'}
            </b>
          </p>
          {sheet.happened.length > 0 && <h2 className={classes.group}>What happened</h2>}
          <dl className={classes.facts}>
            {sheet.happened.map(({ name, value }, i) => (
              <div key={`${name}-${i}`}>
                <dt>{name}</dt>
                <dd><Sentence>{value}</Sentence></dd>
              </div>
            ))}
          </dl>
          <h2 className={classes.group}>Order of work</h2>
          <ol className={classes.order}>
            {sheet.steps.map((step) => (
              <li key={step.id} data-caustic={step.caustic}>
                <strong>{step.title}</strong> <Sentence>{step.text}</Sentence>
              </li>
            ))}
          </ol>
          {sheet.notes.length > 0 && <h2 className={classes.group}>Notes</h2>}
          {sheet.notes.map((note) => (
            <p key={note}>{note}</p>
          ))}
        </div>
      </div>
    </article>
  );
}
