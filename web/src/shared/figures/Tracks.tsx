import { Popover, Text } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import { useState, type ReactNode } from 'react';

import { useReference } from '../../api/queries';
import type { Band, Quality, QualityFigures, Reckoning } from '../../api/types';
import { Panel } from '../Panel';
import { formatChange, formatNumber } from '../quantity';
import { BandEdges, type Edge } from './BandEdges';
import { useFigures } from './FiguresContext';
import classes from './Tracks.module.css';

const MIDDLE = 18;
/** Room for markers at either end of the axis. */
const INSET = 8;

interface TracksProps {
  title?: string;
  reference: Reckoning | null;
  referenceName: string | null;
  /** Bands can be edited, where given. */
  bands?: BandEditing;
}

export interface BandEditing {
  of: (quality: string) => Band | null;
  onChange: (quality: string, edge: Edge, points: number) => void;
  onSettled: () => void;
  /** Whose bands they are, and what else can be done with them. */
  menu: ReactNode;
}

/** One line a quality: the wanted band shaded, today's marker, the reference tick. */
export function Tracks({ title = 'Tracks', reference, referenceName, bands }: TracksProps) {
  const { figures, isStale } = useFigures();
  const { qualities } = useReference();
  return (
    <Panel
      title={title}
      aside={
        bands ? (
          <>
            {referenceName !== null && `△ ${referenceName} · `}
            {bands.menu}
          </>
        ) : referenceName === null ? (
          'points = % of fatty acids at work'
        ) : (
          `△ ${referenceName} · points = % of acids at work`
        )
      }
    >
      <ul className={`${classes.list} ${isStale ? 'stale' : ''}`}>
        {qualities.map((quality) => (
          <Track
            key={quality.id}
            quality={quality}
            today={figures?.qualities.find((figure) => figure.quality === quality.id)}
            before={reference?.qualities.find((figure) => figure.quality === quality.id)}
            bands={bands}
          />
        ))}
      </ul>
    </Panel>
  );
}

interface TrackProps {
  quality: Quality;
  today: QualityFigures | undefined;
  before: QualityFigures | undefined;
  bands: BandEditing | undefined;
}

function Track({ quality, today, before, bands }: TrackProps) {
  const { explain, figures } = useFigures();
  const [opened, setOpened] = useState(false);
  const { ref, width: measured } = useElementSize();
  const width = Math.max(0, measured - 2 * INSET);
  const { axis_minimum: low, axis_maximum: high } = quality;
  const x = (points: number) => ((Math.min(high, Math.max(low, points)) - low) * width) / (high - low);
  // What is being edited does not wait for its reckoning.
  const band = bands === undefined ? today?.band : bands.of(quality.id);
  const isOutside = today !== undefined && today.outside_by > 0;
  const side = today?.standing === 'above' ? 'over' : 'under';
  const change = today !== undefined && before !== undefined ? formatChange(today.points - before.points, 1) : '';
  const words = [
    today === undefined ? 'not reckoned' : `${formatNumber(today.points, 1)} points`,
    band ? `band ${band.minimum} to ${band.maximum}` : 'no band is set',
    isOutside && today ? `${formatNumber(today.outside_by, 1)} ${side}` : '',
    today === undefined ? '' : `nature allows ${formatNumber(today.low, 0)} to ${formatNumber(today.high, 0)}`,
    change === '' ? '' : `${change} against the reference`,
  ];

  return (
    <li className={classes.track} data-testid={`track-${quality.id}`}>
      <button type="button" className={classes.name} onClick={() => explain(quality.id)} title={quality.meaning}>
        {quality.name}
      </button>
      <div ref={ref} className={classes.room}>
        <Popover position="left" withArrow shadow="md" opened={opened && today !== undefined} withinPortal>
          <Popover.Target>
            <svg
              className={classes.scale}
              viewBox={`${-INSET} 0 ${Math.max(1, measured)} 38`}
              role="group"
              tabIndex={0}
              aria-label={`${quality.name}: ${words.filter(Boolean).join(', ')}`}
              onFocus={() => setOpened(true)}
              onBlur={() => setOpened(false)}
              onMouseEnter={() => setOpened(true)}
              onMouseLeave={() => setOpened(false)}
              onKeyDown={(event) => {
                if (event.key === 'Enter') explain(quality.id);
                if (event.key === 'Escape') setOpened(false);
              }}
            >
              <line className={classes.axis} x1="0" x2={width} y1={MIDDLE} y2={MIDDLE} />
              <BandEdges
                name={quality.name}
                minimum={band?.minimum ?? null}
                maximum={band?.maximum ?? null}
                axisMinimum={low}
                axisMaximum={high}
                width={width}
                top={8}
                height={20}
                onChange={bands && ((edge, points) => bands.onChange(quality.id, edge, points))}
                onSettled={bands?.onSettled}
              />
              {today && (
                <path
                  className={classes.whisker}
                  d={`M${x(today.low)} ${MIDDLE - 4} v8 m0 -4 H${x(today.high)} m0 -4 v8`}
                />
              )}
              {before && <path className={classes.reference} d={`M${x(before.points)} 30 l4.5 7 h-9 Z`} />}
              {today && isOutside && (
                <path className={classes.outside} d={`M${x(today.points)} ${MIDDLE - 8.5} l8 8.5 -8 8.5 -8 -8.5 Z`} />
              )}
              {today && !isOutside && <circle className={classes.inside} cx={x(today.points)} cy={MIDDLE} r="6.5" />}
            </svg>
          </Popover.Target>
          <Popover.Dropdown>
            {today && <Parts today={today} names={figures?.oils.map((oil) => oil.name) ?? []} />}
          </Popover.Dropdown>
        </Popover>
      </div>
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
        {isOutside && change !== '' && <br />}
        {change}
      </span>
    </li>
  );
}

function Parts({ today, names }: { today: QualityFigures; names: string[] }) {
  const parts = today.contributions
    .map((given, index) => ({ given, name: names[index] ?? '' }))
    .sort((a, b) => b.given - a.given);
  const most = Math.max(...today.contributions, 0.001);
  return (
    <>
      <Text size="xs" c="dimmed" mb={6}>
        What each oil gives, in points · nature allows {formatNumber(today.low, 1)} to {formatNumber(today.high, 1)}
      </Text>
      <div className={classes.parts}>
        {parts.map(({ given, name }) => [
          <span key={name}>{name}</span>,
          <span key={`${name}-bar`} className={classes.bar} style={{ width: `${(100 * given) / most}%` }} />,
          <span key={`${name}-figure`} className={classes.figure}>
            {formatNumber(given, 1)}
          </span>,
        ])}
      </div>
    </>
  );
}
