import { SegmentedControl } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import type { LabelDesign, LabelDrawing } from '../api/types';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import classes from './Label.module.css';
import { LabelNumber, useLabel } from './LabelContext';

const SHAPES: { value: LabelDesign['shape']; label: string }[] = [
  { value: 'wrap', label: 'wrap' },
  { value: 'box', label: 'box' },
  { value: 'round', label: 'round' },
  { value: 'tray', label: 'tray' },
  { value: 'shelf', label: 'shelf' },
];

/** The label to scale, exactly as it prints. */
export function Drawing() {
  const { view, draft, change } = useLabel();
  const { design } = draft;
  const reshape = useMutation({
    mutationFn: (shape: LabelDesign['shape']) =>
      draft.follow((now) => answered(api.POST('/api/labels/reshape', { body: { design: now, shape } })), (_, reshaped) => reshaped),
  });
  const { drawing } = view;
  return (
    <Panel
      title={SHAPES.find((one) => one.value === design.shape)?.label.replace(/^./, (first) => first.toUpperCase()) ?? 'Label'}
      aside={drawing === null ? undefined : `${formatNumber(drawing.width_mm, 1)} × ${formatNumber(drawing.height_mm, 1)} mm · an x of the smallest letters is ${formatNumber(drawing.smallest_mm, 1)} mm`}
    >
      <SegmentedControl value={design.shape} onChange={(next) => reshape.mutate(next as LabelDesign['shape'])} data={SHAPES} aria-label="Shape of the label" data-testid="label-shape" />
      {drawing === null ? <p className="muted">It is drawn as soon as its size is possible.</p> : <Picture drawing={drawing} name={view.name} />}
      <div className={classes.fields}>
        <LabelNumber label={design.shape === 'round' ? 'Across' : 'Width'} field="width_mm" value={design.width_mm} onChange={(next) => change({ width_mm: next }, 'width')} />
        {design.shape !== 'round' && <LabelNumber label="Height" field="height_mm" value={design.height_mm} onChange={(next) => change({ height_mm: next }, 'height')} />}
        <LabelNumber label="Bleed" field="bleed_mm" value={design.bleed_mm} step={0.5} onChange={(next) => change({ bleed_mm: next }, 'bleed')} />
      </div>
    </Panel>
  );
}

/** Every line where the server put it, in mm. */
export function Picture({ drawing, name }: { drawing: LabelDrawing; name: string }) {
  const { width_mm: width, height_mm: height, bleed_mm: bleed, qr } = drawing;
  const edge = bleed + 2;
  const side = qr === null ? 0 : qr.side_mm / qr.rows.length;
  return (
    <div className={classes.paper}>
      <svg viewBox={`${-edge} ${-edge} ${width + 2 * edge} ${height + 2 * edge}`} role="img" aria-label={`Label of ${name}: ${drawing.texts.map((one) => one.text).join(' ')}`} data-testid="label-drawing">
        {bleed > 0 && !drawing.is_round && <rect x={-bleed} y={-bleed} width={width + 2 * bleed} height={height + 2 * bleed} className={classes.bleed} />}
        {drawing.is_round ? <circle cx={width / 2} cy={width / 2} r={width / 2} className={classes.edge} /> : <rect width={width} height={height} className={classes.edge} />}
        {drawing.folds.map((fold) => (
          <line key={fold.x_mm} x1={fold.x_mm} x2={fold.x_mm} y1={fold.y1_mm} y2={fold.y2_mm} className={classes.fold} />
        ))}
        {drawing.texts.map((one, i) => (
          <text key={i} x={one.x_mm} y={one.y_mm} fontSize={one.size_mm} fontWeight={one.is_bold ? 700 : 400} textAnchor={one.is_centred ? 'middle' : 'start'} textLength={one.width_mm > 0 ? one.width_mm : undefined} lengthAdjust="spacingAndGlyphs">
            {one.text}
          </text>
        ))}
        {qr !== null && <path d={squares(qr.rows, qr.x_mm, qr.y_mm, side)} className={classes.dark} />}
      </svg>
    </div>
  );
}

function squares(rows: readonly string[], x: number, y: number, side: number): string {
  const path: string[] = [];
  rows.forEach((row, i) => {
    [...row].forEach((square, j) => {
      if (square === '1') path.push(`M${x + j * side} ${y + i * side}h${side}v${side}h${-side}z`);
    });
  });
  return path.join('');
}
