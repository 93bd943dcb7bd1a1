import { Button, Menu } from '@mantine/core';
import { Link } from 'react-router';

import { useReference } from '../api/queries';
import type { FreeOf, VersionRecord } from '../api/types';
import { usePlanBatch } from '../batch/usePlanBatch';
import buttons from '../design/buttons.module.css';
import { MenuButton } from '../design/MenuButton';
import { FormulaStages } from '../formulas/FormulaStages';
import { SavedMark } from '../sync/SavedMark';
import { UndoRedo } from '../sync/UndoRedo';
import { MoreIcon } from '../design/icons';
import { useBench } from './BenchContext';
import classes from './BenchHeader.module.css';
import type { LiveResult } from './useResult';

interface BenchHeaderProps {
  onKeepVersion: () => void;
  onDuplicate: () => void;
  onDelete: () => void;
}

/** Which formula, its stages, whether it is saved, and what comes next: a batch. */
export function BenchHeader(props: BenchHeaderProps) {
  const { draft, live } = useBench();
  const { formula, record } = draft;
  const planBatch = usePlanBatch();

  return (
    <div className={classes.header}>
      <input
        className={classes.name}
        value={formula.name}
        aria-label="Name of the formula"
        maxLength={120}
        data-testid="formula-name"
        onChange={(event) => {
          const name = event.currentTarget.value;
          draft.edit((now) => ({ ...now, name }), 'name');
        }}
        onBlur={draft.closeStep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
        }}
      />
      <FormulaStages formulaId={record.id} />
      <span className={classes.spring} />
      <SavedMark save={draft.save} savedAt={record.updated_at} unreadCount={Object.keys(draft.unread).length} />
      <span className={classes.icons}>
        <UndoRedo draft={draft} />
        <MenuButton
          position="bottom-end"
          button={
            <button type="button" className={buttons.icon} aria-label="More for this formula">
              <MoreIcon />
            </button>
          }
        >
          <Menu.Item onClick={props.onKeepVersion}>Keep as version {record.latest_version + 1}…</Menu.Item>
          <Menu.Item onClick={() => void planBatch(record.id)}>Plan a batch …</Menu.Item>
          <Menu.Item component={Link} to={`/formulas/${record.id}/recipe`}>
            Print …
          </Menu.Item>
          <Menu.Item onClick={props.onDuplicate}>Duplicate</Menu.Item>
          <Menu.Item component="a" href={`/api/formulas/${record.id}/document`} download>
            Save as a file
          </Menu.Item>
          <Menu.Divider />
          <Menu.Item onClick={props.onDelete}>Archive</Menu.Item>
        </MenuButton>
      </span>
      <Button component={Link} to={`/formulas/${record.id}/recipe`} className={classes.print}>
        Print
      </Button>
      <Button variant="filled" onClick={() => void planBatch(record.id)} disabled={live.freshness !== 'fresh'} data-testid="plan-this">
        Plan a batch
      </Button>
    </div>
  );
}

/** Version, purpose, and what it is free from. */
export function FormulaChips({ versions, onKeepVersion, onReturnTo }: FormulaChipsProps) {
  const { draft } = useBench();
  const { record } = draft;
  return (
    <div className={classes.chips}>
    <MenuButton
      button={
        <button type="button" className={classes.chip} data-testid="version-chip">
          {record.latest_version === 0 ? 'no version kept' : `version ${record.latest_version} kept`} ▾
        </button>
      }
    >
      <Menu.Item onClick={onKeepVersion} rightSection="Ctrl Shift S">
        Keep as version {record.latest_version + 1}…
      </Menu.Item>
      {versions.length > 0 && <Menu.Label>Go back to</Menu.Label>}
      {versions.map((version) => (
        <Menu.Item key={version.number} onClick={() => onReturnTo(version)} maw={360}>
          version {version.number}
          {version.note && `: ${version.note}`}
        </Menu.Item>
      ))}
    </MenuButton>
      <PurposeChip />
      <FreeOfChip />
    </div>
  );
}

export interface FormulaChipsProps {
  versions: VersionRecord[];
  onKeepVersion: () => void;
  onReturnTo: (version: VersionRecord) => void;
}

/** What the bar is for; its target ranges come with it. */
function PurposeChip() {
  const { draft } = useBench();
  const { formula } = draft;
  const { purposes } = useReference();
  const purpose = purposes.find((known) => known.id === formula.purpose);
  return (
    <MenuButton
      button={
        <button type="button" className={classes.chip} data-testid="purpose-chip">
          for <strong>{purpose?.name.toLowerCase() ?? formula.purpose}</strong> ▾
        </button>
      }
    >
      {purposes.map((known) => (
        <Menu.Item
          key={known.id}
          maw={340}
          onClick={() => draft.edit((now) => ({ ...now, purpose: known.id }))}
          aria-current={known.id === formula.purpose}
        >
          <strong>{known.name}</strong>
          <br />
          <span className="muted">{known.summary}</span>
        </Menu.Item>
      ))}
    </MenuButton>
  );
}

/** The kept version that today's bar is compared with. */
export function ComparedWith({ versions, against, setAgainst }: ComparedWithProps) {
  return (
    <MenuButton
      button={
        <button type="button" className={buttons.link} data-testid="against-chip">
          {against === null ? 'compare' : `△ version ${against}`} ▾
        </button>
      }
    >
      <Menu.Label>Compare with</Menu.Label>
      <Menu.Item onClick={() => setAgainst(null)}>nothing</Menu.Item>
      {versions.map((version) => (
        <Menu.Item key={version.number} onClick={() => setAgainst(version.number)}>
          version {version.number}
        </Menu.Item>
      ))}
    </MenuButton>
  );
}

interface ComparedWithProps {
  versions: VersionRecord[];
  against: number | null;
  setAgainst: (version: number | null) => void;
}

/** What this soap must do without; the rules hold every oil, liquid and additive to it. */
function FreeOfChip() {
  const { draft } = useBench();
  const { free_of: words } = useReference();
  const chosen = draft.formula.free_of;
  const toggle = (word: FreeOf) =>
    draft.edit((now) => ({
      ...now,
      free_of: now.free_of.includes(word) ? now.free_of.filter((one) => one !== word) : [...now.free_of, word],
    }));
  return (
    <MenuButton
      closeOnItemClick={false}
      button={
        <button type="button" className={classes.chip} data-testid="free-of-chip">
          {chosen.length === 0 ? 'free from …' : 'free from '}
          {chosen.length > 0 && <strong>{chosen.join(', ')}</strong>} ▾
        </button>
      }
    >
      <Menu.Label>This soap must be free from</Menu.Label>
      {words.map((word) => (
        <Menu.CheckboxItem
          key={word}
          checked={chosen.includes(word as FreeOf)}
          onChange={() => toggle(word as FreeOf)}
        >
          {word}
        </Menu.CheckboxItem>
      ))}
    </MenuButton>
  );
}

export function StateMark({ live }: { live: LiveResult }) {
  const { freshness, problems, advice } = live;
  let [tone, text] = ['quiet', 'result …'];
  if (freshness === 'unreachable') [tone, text] = ['watch', 'server does not answer'];
  else if (freshness === 'stopped') {
    const sum = problems.find((one) => one.about === 'sum');
    const isOpen = problems.every((problem) => problem.is_open);
    if (!isOpen)
      [tone, text] = ['danger', '✕ impossible as entered'];
    else if (problems.some((problem) => problem.code === 'no_oils')) [tone, text] = ['quiet', 'nothing entered yet'];
    else if (sum !== undefined) [tone, text] = ['watch', '◐ sum is not 100 %'];
    else [tone, text] = ['watch', '◐ incomplete'];
  } else if (freshness === 'fresh') {
    if (advice.some((one) => one.about === 'lye')) [tone, text] = ['danger', '✕ lye-heavy: neutralise'];
    else if (advice.some((one) => one.severity === 'problem')) [tone, text] = ['danger', '✕ a problem to settle'];
    else [tone, text] = ['', '✓ result complete'];
  }
  return (
    <span
      className={classes.state}
      data-tone={tone}
      role="status"
      data-testid="formula-state"
      data-freshness={freshness}
    >
      {text}
    </span>
  );
}
