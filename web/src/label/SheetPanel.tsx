import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import { Panel } from '../design/Panel';
import { SelectField } from '../design/SelectField';
import classes from './Label.module.css';
import { LabelNumber, useLabel } from './LabelContext';

/** The sheet that labels are printed on. */
export function SheetPanel() {
  const { draft, change } = useLabel();
  const { design } = draft;
  const { sheet } = design;
  const set = (part: Partial<typeof sheet>, mergeKey?: string) => change({ sheet: { ...sheet, ...part } }, mergeKey);
  const usual = useMutation({
    mutationFn: (page: 'a4' | 'letter') => answered(api.POST('/api/labels/sheet', { body: { ...design, sheet: { ...sheet, page } } })),
    onSuccess: (next) => change({ sheet: next }),
  });
  const number = (label: string, field: keyof typeof sheet, unit = 'mm') => (
    <LabelNumber label={label} field={`sheet.${field}`} unit={unit} value={sheet[field] as number} onChange={(next) => set({ [field]: unit === '' ? Math.round(next) : next }, field)} />
  );
  return (
    <Panel title="Sheet" aside={`${sheet.columns} × ${sheet.rows} on ${sheet.page === 'a4' ? 'A4' : 'Letter'}`}>
      <div className={classes.fields}>
        <SelectField
          label="Page"
          showLabel
          value={sheet.page}
          options={[
            { value: 'a4', label: 'A4' },
            { value: 'letter', label: 'Letter' },
          ]}
          onChange={(page) => usual.mutate(page)}
          testId="sheet-page"
        />
        {number('Columns', 'columns', '')}
        {number('Rows', 'rows', '')}
        {number('From the left', 'left_mm')}
        {number('From the top', 'top_mm')}
        {number('Gap across', 'gap_x_mm')}
        {number('Gap down', 'gap_y_mm')}
        {number('First free place', 'first', '')}
      </div>
      <Button mt={10} onClick={() => usual.mutate(sheet.page)} data-testid="usual-sheet">
        As many as fit
      </Button>
    </Panel>
  );
}
