import { Button, Menu } from '@mantine/core';
import { useRef } from 'react';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import { useDefinitions } from '../api/queries';
import { MenuButton } from '../design/MenuButton';
import { HoldIcon, MoreIcon } from '../design/icons';
import { NumberField } from '../design/NumberField';
import { Panel } from '../design/Panel';
import { formatNumber, formatShare, parseNumber, parseWeight } from '../design/quantity';
import { useSettings } from '../app/settings';
import { Swatch } from '../design/Swatch';
import { useTellFailure } from '../app/showFailure';
import { AddOil } from './AddOil';
import { problemAt, useBench } from './BenchContext';
import classes from './BlendPanel.module.css';
import {
  basisOf,
  enteredSum,
  moveLine,
  removeLine,
  setAdded,
  setAmount,
  SHARE_STEP,
  toggleLocked,
  withMaterials,
  type Line,
} from './edits';
import { saidOf } from '../design/units';
import { Sentence } from '../design/Sentence';

const ADDED: { value: Line['added']; label: string }[] = [
  { value: 'start', label: 'with the others' },
  { value: 'at_trace', label: 'at trace' },
  { value: 'after_cook', label: 'after the cook' },
];
const LATE = { at_trace: 'at trace', after_cook: 'after cook' } as const;
const WEIGHT_STEPS = { g: 5, kg: 0.005, oz: 0.25, lb: 0.01 };

/** The oils with shares and weights. One of the two leads; the other follows from the last result. */
export function BlendPanel() {
  const { draft, live } = useBench();
  const { blend } = draft.formula;
  const rows = useRef<(HTMLInputElement | null)[]>([]);
  const hard = live.result?.indices.hard_percent;
  const fresh = live.freshness === 'fresh';

  return (
    <Panel
      title="Blend"
      aside={
        <>
          {hard !== undefined && fresh && (
            <span>
              {formatNumber(100 - hard, 0)} soft : {formatNumber(hard, 0)} hard&ensp;
            </span>
          )}
          <AmountBasis />
        </>
      }
    >
      {blend.lines.length === 0 && (
        <p className={classes.empty}>
          Start with the oil that does most of the work. Three to seven make most bars: one for mildness, one for
          structure, one for lather.
        </p>
      )}
      <ul className={classes.lines} aria-label="Oils in the blend">
        {blend.lines.map((line, index) => (
          <BlendLine
            key={`${line.oil}-${index}`}
            line={line}
            index={index}
            inputRef={(input) => {
              rows.current[index] = input;
            }}
            focusRow={(row) => rows.current[row]?.focus()}
          />
        ))}
      </ul>
      <AddOil
        onAdded={(index) => {
          // The row appears with the next paint.
          requestAnimationFrame(() => rows.current[index]?.focus());
        }}
      />
      <Together />
      <SumRepair />
    </Panel>
  );
}

function AmountBasis() {
  const { draft } = useBench();
  const tellFailure = useTellFailure();
  const { blend } = draft.formula;
  const basis = basisOf(blend);
  const give = async (to: Line['by']) => {
    if (to === basis) return;
    try {
      await draft.follow(
        (formula) => answered(api.POST('/api/blend/convert', { body: { blend: formula.blend, to } })),
        (formula, converted) => ({ ...formula, blend: converted.blend }),
      );
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <span className={classes.led} role="group" aria-label="Amounts given as">
      <button type="button" aria-pressed={basis === 'percent_of_oils'} onClick={() => void give('percent_of_oils')}>
        %
      </button>
      <button type="button" aria-pressed={basis === 'weight_g'} onClick={() => void give('weight_g')}>
        weight
      </button>
    </span>
  );
}

interface BlendLineProps {
  line: Line;
  index: number;
  inputRef: (input: HTMLInputElement | null) => void;
  focusRow: (index: number) => void;
}

function BlendLine({ line, index, inputRef, focusRow }: BlendLineProps) {
  const { draft, live, oils } = useBench();
  const { weightUnit, weightUnits } = useSettings();
  const definitionsOf = useDefinitions();
  const { formula } = draft;
  const byPercent = line.by === 'percent_of_oils';
  const field = `blend.lines[${index}].value`;
  const oil = oils.get(line.oil);
  const own = formula.materials.find((material) => material.id === line.oil);
  const name = own?.name ?? oil?.name ?? line.oil;
  const onShelf = definitionsOf(line.oil);
  const isOutdated = onShelf.some((fresh) => {
    const carried = formula.materials.find((material) => material.id === fresh.id);
    return JSON.stringify(carried) !== JSON.stringify(fresh);
  });
  const result = live.result?.oils[index];
  const matches = result?.oil === line.oil;
  const fresh = live.freshness === 'fresh';
  const weighing = live.result?.weights;
  const problem = problemAt(live.problems, field) ?? problemAt(live.problems, `blend.lines[${index}].oil`);
  const messageId = `line-${index}-message`;

  const move = (to: number) => {
    if (to < 0 || to >= formula.blend.lines.length) return;
    draft.edit((now) => moveLine(now, index, to));
    requestAnimationFrame(() => focusRow(to));
  };
  const remove = () => {
    draft.edit((now) => removeLine(now, index));
    draft.setUnread(field, null);
    requestAnimationFrame(() => focusRow(Math.max(0, index - 1)));
  };

  return (
    <li className={classes.line} data-testid={`line-${line.oil}`}>
      <Swatch group={oil?.group ?? result?.group ?? 'short'} hard={oil?.hard ?? result?.hard ?? false} />
      <span className={classes.name} title={oil?.jobs}>
        {name}
        {line.added !== 'start' && <small className={classes.late}> {LATE[line.added]}</small>}
      </span>
      <button
        type="button"
        className={classes.hold}
        aria-pressed={line.locked}
        aria-label={`Hold ${name}`}
        title={line.locked ? 'Locked: does not move when others do' : 'Free to move. Click to lock (Alt+H)'}
        onClick={() => draft.edit((now) => toggleLocked(now, index))}
      >
        <HoldIcon locked={line.locked ?? false} />
      </button>
      <NumberField
        label={`${name}, ${byPercent ? 'share in percent' : `weight in ${weightUnit.name}`}`}
        value={line.value}
        unit={byPercent ? '%' : weightUnit.id}
        format={(value) =>
          byPercent ? formatShare(value) : formatNumber(value / weightUnit.grams, weightUnit.decimals)
        }
        parse={byPercent ? parseNumber : (text) => parseWeight(text, weightUnit.id, weightUnits)}
        unread={draft.unread[field]}
        onUnread={(text) => draft.setUnread(field, text)}
        onChange={(amount) => draft.edit((now) => setAmount(now, index, amount), field)}
        onLeave={draft.closeStep}
        step={byPercent ? SHARE_STEP : WEIGHT_STEPS[weightUnit.id] * weightUnit.grams}
        problemId={problem && draft.unread[field] === undefined ? messageId : undefined}
        isOpen={problem?.is_open}
        inputRef={inputRef}
        testId={`amount-${line.oil}`}
        onKeyDown={(event) => {
          if (event.key === 'Enter') {
            event.preventDefault();
            focusRow(index + (event.shiftKey ? -1 : 1));
          } else if (event.altKey && event.key === 'ArrowUp') {
            event.preventDefault();
            move(index - 1);
          } else if (event.altKey && event.key === 'ArrowDown') {
            event.preventDefault();
            move(index + 1);
          } else if (event.altKey && event.code === 'KeyH') {
            event.preventDefault();
            draft.edit((now) => toggleLocked(now, index));
          } else if (event.ctrlKey && (event.key === 'Delete' || event.key === 'Backspace')) {
            event.preventDefault();
            remove();
          }
        }}
      />
      <span className={`${classes.follows} ${fresh ? '' : 'stale'}`}>
        {matches && weighing && byPercent && (
          <>
            {formatNumber(weighing.oils[index] ?? 0, weighing.decimals)}
            <span>{weighing.unit}</span>
          </>
        )}
        {matches && !byPercent && (
          <>
            {formatNumber(result.share_percent, 1)}
            <span> %</span>
          </>
        )}
      </span>
      <MenuButton
        position="bottom-end"
        button={
          <button type="button" className={classes.more} aria-label={`More for ${name}`}>
            <MoreIcon />
          </button>
        }
      >
        <Menu.Label>{oil?.jobs ?? 'Not in the catalogue'}</Menu.Label>
        <Menu.Item onClick={() => move(index - 1)} rightSection="Alt ↑">
          Move up
        </Menu.Item>
        <Menu.Item onClick={() => move(index + 1)} rightSection="Alt ↓">
          Move down
        </Menu.Item>
        <Menu.Item onClick={remove} rightSection="Ctrl Del">
          Take out of the blend
        </Menu.Item>
        <Menu.Item component={Link} to={`/formulas/${draft.record.id}/swap?out=${line.oil}`}>
          Find a replacement …
        </Menu.Item>
        <Menu.Divider />
        <Menu.Label>Goes in; late oil gets no lye of its own</Menu.Label>
        {ADDED.map((added) => (
          <Menu.Item
            key={added.value}
            aria-current={line.added === added.value}
            onClick={() => draft.edit((now) => setAdded(now, index, added.value))}
          >
            {added.label}
          </Menu.Item>
        ))}
      </MenuButton>
      {isOutdated && (
        <button
          type="button"
          className={classes.outdated}
          onClick={() => draft.edit((now) => withMaterials(now, onShelf))}
        >
          The shelf has other values for it: take them
        </button>
      )}
      {problem && draft.unread[field] === undefined && (
        <span id={messageId} className={problem.is_open ? classes.open : classes.message}>
          <Sentence>{saidOf(problem)}</Sentence>
        </span>
      )}
    </li>
  );
}

function Together() {
  const { draft, live } = useBench();
  const { weightUnit, weightUnits } = useSettings();
  const { blend } = draft.formula;
  const weighing = live.result?.weights;
  const field = 'blend.total_oils_g';
  const problem = problemAt(live.problems, field);

  return (
    <div className={classes.foot}>
      <span style={{ gridColumn: '1 / 4' }}>Together</span>
      {basisOf(blend) !== 'weight_g' ? (
        <>
          <span className={classes.sum} data-testid="share-sum">
            {formatShare(enteredSum(blend))}
            <span> %</span>
          </span>
          <div style={{ gridColumn: '5 / 7' }}>
            <NumberField
              label={`Weight of all oils in ${weightUnit.name}`}
              value={blend.total_oils_g ?? null}
              unit={weightUnit.id}
              format={(value) => formatNumber(value / weightUnit.grams, weightUnit.decimals)}
              parse={(text) => parseWeight(text, weightUnit.id, weightUnits)}
              unread={draft.unread[field]}
              onUnread={(text) => draft.setUnread(field, text)}
              onChange={(total) =>
                draft.edit((now) => ({ ...now, blend: { ...now.blend, total_oils_g: total } }), field)
              }
              onLeave={draft.closeStep}
              step={weightUnit.grams * (weightUnit.id === 'g' ? 50 : 1)}
              problem={problem && saidOf(problem)}
              testId="total-oils"
            />
          </div>
        </>
      ) : (
        <span className={classes.sum} style={{ gridColumn: '4 / 6' }} data-testid="weight-sum">
          {live.freshness === 'fresh' && weighing
            ? formatNumber(weighing.oils_total, weighing.decimals)
            : formatNumber(enteredSum(blend) / weightUnit.grams, weightUnit.decimals)}
          <span> {weightUnit.id}</span>
        </span>
      )}
    </div>
  );
}

function SumRepair() {
  const { draft, live, oils } = useBench();
  const tellFailure = useTellFailure();
  const { blend } = draft.formula;
  const problem = live.problems.find((found) => found.path === 'blend.lines' && found.code !== 'no_oils');
  if (problem === undefined) return null;
  const isSum = problem.about === 'sum';
  const gap = enteredSum(blend) - 100;

  const balance = async (onto: number | null) => {
    try {
      await draft.follow(
        (formula) => answered(api.POST('/api/blend/balance', { body: { blend: formula.blend, onto } })),
        (formula, balanced) => ({ ...formula, blend: balanced.blend }),
      );
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <div className={classes.repair} role="status">
      {!isSum && <Sentence>{saidOf(problem)}</Sentence>}
      {isSum && (
        <strong>
          {formatShare(Math.abs(gap))} {gap > 0 ? 'over' : 'short'}
        </strong>
      )}
      {isSum && (
        <>
          <Button size="compact-sm" onClick={() => void balance(null)}>
            Scale to 100 %
          </Button>
          <MenuButton button={<Button size="compact-sm">Let one oil take it</Button>}>
            {blend.lines.map((line, index) => (
              <Menu.Item key={`${line.oil}-${index}`} onClick={() => void balance(index)}>
                {oils.get(line.oil)?.name ?? line.oil}
              </Menu.Item>
            ))}
          </MenuButton>
        </>
      )}
    </div>
  );
}
