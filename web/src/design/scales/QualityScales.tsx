import { Popover, Text } from '@mantine/core';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';

import { useReference } from '../../api/queries';
import type { TargetRange, Quality, QualityResult, FormulaResult, YourBars } from '../../api/types';
import { Panel } from '../Panel';
import { useIsPhone } from '../phone';
import { formatChange, formatNumber } from '../quantity';
import { Sentence } from '../Sentence';
import type { Edge } from './RangeEdges';
import { Scale } from './Scale';
import { useShownResult } from './ResultContext';
import classes from './QualityScales.module.css';

const HEIGHT = 46;
const MIDDLE = 24;

interface QualityScalesProps {
  title?: string;
  reference: FormulaResult | null;
  referenceName: string | null;
  /** Target ranges can be edited, where given. */
  targetRanges?: TargetRangeEditing;
  /** Say in a line what each quality is, and what raises and lowers it. */
  explained?: boolean;
  /** What is to be said of what is shown. */
  note?: ReactNode;
  /** Write the points of the reference beside today's, instead of how far they are apart. */
  sideBySide?: boolean;
}

export interface TargetRangeEditing {
  of: (quality: string) => TargetRange | null;
  onChange: (quality: string, edge: Edge, points: number) => void;
  onSettled: () => void;
  /** Whose target ranges they are, and what else can be done with them. */
  menu: ReactNode;
}

/** One line a quality: the wanted target range shaded, today's marker, the reference tick. */
export function QualityScales({ title = 'Quality scales', reference, referenceName, targetRanges, explained = false, note, sideBySide = false }: QualityScalesProps) {
  const { result, isStale, yourBars } = useShownResult();
  const { qualities } = useReference();
  return (
    <Panel
      title={title}
      aside={
        targetRanges ? (
          targetRanges.menu
        ) : referenceName === null ? (
          'points = % of all fatty acids'
        ) : (
          `△ ${referenceName} · points = % of all acids`
        )
      }
    >
      {yourBars !== undefined && yourBars.length > 0 && (
        <p className={classes.about}>
          <span aria-hidden className={classes.key} /> where <Link to="/learning">your own bars</Link> put it
        </p>
      )}
      {note !== undefined && <p className={classes.about}>{note}</p>}
      <ul className={`${classes.list} ${isStale ? 'stale' : ''}`}>
        {qualities.map((quality) => (
          <QualityScale
            key={quality.id}
            quality={quality}
            today={result?.qualities.find((quantity) => quantity.quality === quality.id)}
            yours={yourBars?.find((one) => one.quality === quality.id)}
            before={reference?.qualities.find((quantity) => quantity.quality === quality.id)}
            targetRanges={targetRanges}
            explained={explained}
            sideBySide={sideBySide}
          />
        ))}
      </ul>
    </Panel>
  );
}

interface QualityScaleProps {
  quality: Quality;
  today: QualityResult | undefined;
  before: QualityResult | undefined;
  /** Where the workshop's own bars put it. */
  yours: YourBars | undefined;
  targetRanges: TargetRangeEditing | undefined;
  explained: boolean;
  sideBySide: boolean;
}

function QualityScale({ quality, today, before, yours, targetRanges, explained, sideBySide }: QualityScaleProps) {
  const { explain, result } = useShownResult();
  // What each oil gives is told to a mouse and to the keyboard; a finger has the explanation, which says it too.
  const [opened, setOpened] = useState(false);
  const { axis_minimum: low, axis_maximum: high } = quality;
  // What is being edited does not wait for its result.
  const targetRange = targetRanges === undefined ? today?.target_range : targetRanges.of(quality.id);
  const isOutside = today !== undefined && today.outside_by > 0;
  const side = today?.standing === 'above' ? 'over' : 'under';
  const change = today !== undefined && before !== undefined ? formatChange(today.points - before.points, 1) : '';
  const told = sideBySide ? (before === undefined ? '' : `was ${formatNumber(before.points, 1)}`) : change;
  const words = [
    today === undefined ? 'not calculated' : `${formatNumber(today.points, 1)} points`,
    targetRange ? `target range ${targetRange.minimum} to ${targetRange.maximum}` : 'no target range is set',
    isOutside && today ? `${formatNumber(today.outside_by, 1)} ${side}` : '',
    today === undefined ? '' : `nature allows ${formatNumber(today.low, 0)} to ${formatNumber(today.high, 0)}`,
    change === '' ? '' : `${change} beside the reference`,
    yours === undefined ? '' : `your bars say ${formatNumber(yours.points, 0)}`,
  ];

  return (
    <li
      className={classes.scale}
      data-testid={`scale-${quality.id}`}
      onPointerEnter={(event) => setOpened(event.pointerType === 'mouse')}
      onPointerLeave={() => setOpened(false)}
    >
      <button type="button" className={classes.name} onClick={() => explain(quality.id)} title={quality.meaning}>
        {quality.name}
      </button>
      <div className={classes.room}>
        <Scale
          low={low}
          high={high}
          height={HEIGHT}
          middle={MIDDLE}
          range={targetRange ? { minimum: targetRange.minimum, maximum: targetRange.maximum } : { minimum: null, maximum: null }}
          edges={{ name: quality.name, onChange: targetRanges && ((edge, points) => targetRanges.onChange(quality.id, edge, points)), onSettled: targetRanges?.onSettled }}
          hasEnds
          uncertainty={today}
          yours={today && yours}
          yoursId={`yours-${quality.id}`}
          marks={[
            ...(before ? [{ at: before.points, shape: 'up', tone: 'reference' } as const] : []),
            ...(today ? [isOutside ? ({ at: today.points, shape: 'diamond', tone: 'watch' } as const) : ({ at: today.points, shape: 'disc', tone: 'filled' } as const)] : []),
          ]}
          role="group"
          tabIndex={0}
          aria-label={`${quality.name}: ${words.filter(Boolean).join(', ')}`}
          onFocus={(event) => setOpened(event.target.matches(':focus-visible'))}
          onBlur={() => setOpened(false)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') explain(quality.id);
            if (event.key === 'Escape') setOpened(false);
          }}
        />
      </div>
      {opened && today !== undefined && <PartsBeside today={today} names={result?.contributors ?? []} yours={yours} />}
      <span className={classes.points} data-testid={`points-${quality.id}`}>
        {today === undefined ? '–' : formatNumber(today.points, 1)}
      </span>
      <span className={classes.note}>
        {isOutside && today && (
          <span className={classes.out}>
            {formatNumber(today.outside_by, 1)} {side}
          </span>
        )}
        {today?.standing === 'unknown' && <span className={classes.out}>unknown</span>}
        {isOutside && told !== '' && <br />}
        {told}
      </span>
      {explained && quality.in_short !== '' && (
        <span className={classes.inShort}>
          {quality.in_short} <b aria-label="raised by">▲</b> {quality.raised_by} <b aria-label="lowered by">▼</b> {quality.lowered_by}
        </span>
      )}
    </li>
  );
}

interface PartsProps {
  today: QualityResult;
  names: string[];
  yours?: YourBars | undefined;
}

/** What each oil gives, beside the row, so that its name can still be clicked; above it where there is no room beside. */
function PartsBeside({ today, names, yours }: PartsProps) {
  const isPhone = useIsPhone();
  return (
    <Popover position={isPhone ? 'top' : 'left'} withArrow shadow="md" opened withinPortal withRoles={false}>
      <Popover.Target>
        <span className={classes.anchor} />
      </Popover.Target>
      <Popover.Dropdown>
        <Parts today={today} names={names} />
        {yours !== undefined && (
          <Text size="xs" mt={6}>
            <Sentence>{yours.words}</Sentence>
          </Text>
        )}
      </Popover.Dropdown>
    </Popover>
  );
}

function Parts({ today, names }: PartsProps) {
  const components = today.contributions
    .map((given, index) => ({ given, name: names[index] ?? '' }))
    .sort((a, b) => b.given - a.given);
  const most = Math.max(...today.contributions, 0.001);
  return (
    <>
      <Text size="xs" c="dimmed" mb={6}>
        What each oil gives, in points · nature allows {formatNumber(today.low, 1)} to {formatNumber(today.high, 1)}
      </Text>
      <div className={classes.components}>
        {components.map(({ given, name }) => [
          <span key={name}>{name}</span>,
          <span key={`${name}-bar`} className={classes.bar} style={{ width: `${(100 * given) / most}%` }} />,
          <span key={`${name}-quantity`} className={classes.quantity}>
            {formatNumber(given, 1)}
          </span>,
        ])}
      </div>
    </>
  );
}
