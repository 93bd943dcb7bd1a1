import { Menu } from '@mantine/core';

import { useReference } from '../api/queries';
import type { FreeOf, VersionRecord } from '../api/types';
import { usePlanBatch } from '../batch/usePlanBatch';
import { SavedMark } from '../sync/SavedMark';
import { MoreIcon, UndoIcon } from '../design/icons';
import { useBench } from './BenchContext';
import classes from './BenchHeader.module.css';
import type { LiveResult } from './useResult';

interface BenchHeaderProps {
  versions: VersionRecord[];
  against: number | null;
  setAgainst: (version: number | null) => void;
  onKeepVersion: () => void;
  onDuplicate: () => void;
  onDelete: () => void;
  onReturnTo: (version: VersionRecord) => void;
}

/** Which formula, which version, whether it is saved and whether it is safe to make. */
export function BenchHeader(props: BenchHeaderProps) {
  const { draft, live } = useBench();
  const { formula, record } = draft;
  const planBatch = usePlanBatch();
  const { purposes } = useReference();
  const purpose = purposes.find((known) => known.id === formula.purpose);
  const { versions, against } = props;

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
      <Menu>
        <Menu.Target>
          <button type="button" className={classes.chip} data-testid="version-chip">
            {record.latest_version === 0 ? 'no version kept' : `version ${record.latest_version} kept`} · draft ▾
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={props.onKeepVersion} rightSection="Ctrl Shift S">
            Keep as version {record.latest_version + 1}…
          </Menu.Item>
          {versions.length > 0 && <Menu.Label>Go back to</Menu.Label>}
          {versions.map((version) => (
            <Menu.Item key={version.number} onClick={() => props.onReturnTo(version)} maw={360}>
              version {version.number}
              {version.note && `: ${version.note}`}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      <Menu>
        <Menu.Target>
          <button type="button" className={classes.chip} data-testid="purpose-chip">
            for <strong>{purpose?.name.toLowerCase() ?? formula.purpose}</strong> ▾
          </button>
        </Menu.Target>
        <Menu.Dropdown>
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
        </Menu.Dropdown>
      </Menu>
      <FreeOfChip />
      {versions.length > 0 && (
        <Menu>
          <Menu.Target>
            <button type="button" className={classes.chip} data-testid="against-chip">
              against <strong>{against === null ? 'nothing' : `version ${against}`}</strong> ▾
            </button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => props.setAgainst(null)}>nothing</Menu.Item>
            {versions.map((version) => (
              <Menu.Item key={version.number} onClick={() => props.setAgainst(version.number)}>
                version {version.number}
              </Menu.Item>
            ))}
          </Menu.Dropdown>
        </Menu>
      )}
      <span className={classes.spring} />
      <SavedMark save={draft.save} savedAt={record.updated_at} unreadCount={Object.keys(draft.unread).length} />
      <span className={classes.icons}>
        <button
          type="button"
          className={classes.icon}
          onClick={draft.undo}
          disabled={!draft.canUndo}
          aria-label="Undo"
          title="Undo (Ctrl+Z)"
        >
          <UndoIcon />
        </button>
        <button
          type="button"
          className={classes.icon}
          onClick={draft.redo}
          disabled={!draft.canRedo}
          aria-label="Redo"
          title="Redo (Ctrl+Shift+Z)"
        >
          <UndoIcon flip />
        </button>
        <Menu position="bottom-end">
          <Menu.Target>
            <button type="button" className={classes.icon} aria-label="More for this formula">
              <MoreIcon />
            </button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={props.onKeepVersion}>Keep as version {record.latest_version + 1}…</Menu.Item>
            <Menu.Item onClick={() => void planBatch(record.id)}>Plan a batch …</Menu.Item>
            <Menu.Item onClick={props.onDuplicate}>Duplicate</Menu.Item>
            <Menu.Item component="a" href={`/api/formulas/${record.id}/document`} download>
              Save as a file
            </Menu.Item>
            <Menu.Divider />
            <Menu.Item onClick={props.onDelete}>Archive</Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </span>
      <StateMark live={live} />
    </div>
  );
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
    <Menu closeOnItemClick={false}>
      <Menu.Target>
        <button type="button" className={classes.chip} data-testid="free-of-chip">
          {chosen.length === 0 ? 'without …' : 'without '}
          {chosen.length > 0 && <strong>{chosen.join(', ')}</strong>} ▾
        </button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>This soap must do without</Menu.Label>
        {words.map((word) => (
          <Menu.CheckboxItem
            key={word}
            checked={chosen.includes(word as FreeOf)}
            onChange={() => toggle(word as FreeOf)}
          >
            {word}
          </Menu.CheckboxItem>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

function StateMark({ live }: { live: LiveResult }) {
  const { freshness, problems, advice } = live;
  let [tone, text] = ['quiet', 'result …'];
  if (freshness === 'unreachable') [tone, text] = ['watch', 'server does not answer'];
  else if (freshness === 'stopped') {
    const sum = problems.find((one) => one.about === 'sum');
    if (problems.some((problem) => !problem.is_open))
      [tone, text] = ['danger', '✕ impossible as entered'];
    else if (problems.length === 1 && problems[0]?.code === 'no_oils') [tone, text] = ['quiet', 'empty'];
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
