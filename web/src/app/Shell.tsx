import { Menu, useComputedColorScheme, useMantineColorScheme } from '@mantine/core';
import { useDisclosure, useHotkeys } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { Spotlight, spotlight, type SpotlightActionData } from '@mantine/spotlight';
import { useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Link, NavLink, Outlet, useLocation, useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { useFormulas, useHealth } from '../api/queries';
import { LAST_FORMULA } from '../bench/lastFormula';
import { UnsavedNotice } from '../sync/settleUnsaved';
import { keyCaps, useCommands, useOffered, type Command } from './commands';
import { ThemeIcon } from '../design/icons';
import { useSettings } from './settings';
import classes from './Shell.module.css';
import { ShortcutsSheet } from './ShortcutsSheet';
import { useTellFailure } from './showFailure';

/** The frame around every screen: where you are, what you can find or do, units and theme. */
export function Shell() {
  const [isSheetOpen, sheet] = useDisclosure(false);
  useShellCommands(sheet.open);
  const { pathname } = useLocation();
  const lastFormula = pathname.startsWith('/formulas/') ? pathname.split('/')[2] : localStorage.getItem(LAST_FORMULA);

  return (
    <>
      <a className={classes.skip} href="#screen">
        To the content
      </a>
      <header className={classes.bar}>
        <Link to="/" className={classes.mark}>
          Sapolin
        </Link>
        <nav className={classes.nav} aria-label="Screens">
          <NavLink to="/" end>
            Formulas
          </NavLink>
          {lastFormula && (
            <>
              <NavLink to={`/formulas/${lastFormula}`} end>
                Bench
              </NavLink>
              <NavLink to={`/formulas/${lastFormula}/solve`}>Solve</NavLink>
              <NavLink to={`/formulas/${lastFormula}/swap`}>Swap</NavLink>
            </>
          )}
          <NavLink to="/trials">Trials</NavLink>
          <NavLink to="/batches">Batches</NavLink>
          <NavLink to="/shelf">Shelf</NavLink>
        </nav>
        <DemoMenu />
        <span className={classes.spring} />
        <button type="button" className={classes.tool} onClick={spotlight.open}>
          Find or do <span className={classes.key}>Ctrl K</span>
        </button>
        <UnitMenu />
        <ThemeSwitch />
      </header>
      <UnsavedNotice />
      <main id="screen">
        <Outlet />
      </main>
      <Palette />
      <ShortcutsSheet opened={isSheetOpen} onClose={sheet.close} />
    </>
  );
}

function DemoMenu() {
  const health = useHealth();
  const client = useQueryClient();
  const navigate = useNavigate();
  const tellFailure = useTellFailure();
  if (!health?.demo) return null;
  const reset = async () => {
    try {
      await answered(api.POST('/api/demo/reset', { body: { confirm: true } }));
      void navigate('/');
      client.removeQueries({ queryKey: ['versions'] });
      await client.invalidateQueries();
      notifications.show({ message: 'The demo world is as it was shipped.' });
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <Menu>
      <Menu.Target>
        <button type="button" className={classes.demo}>
          demo: Juniper Ridge ▾
        </button>
      </Menu.Target>
      <Menu.Dropdown maw={330}>
        <Menu.Label>
          A made-up workshop that supplies guest bars to mountain huts. It lives in a database of its own; your formulas
          are not touched.
        </Menu.Label>
        <Menu.Item onClick={() => void reset()}>Reset: undo everything done in the demo</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

function UnitMenu() {
  const { weightUnit, weightUnits, setWeightUnit, temperatureUnit, setTemperatureUnit } = useSettings();
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <button
          type="button"
          className={classes.tool}
          aria-label={`${weightUnit.id}: weights in ${weightUnit.name}. Change`}
        >
          {weightUnit.id} <span aria-hidden>▾</span>
        </button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>Weights in</Menu.Label>
        {weightUnits.map((unit) => (
          <Menu.Item key={unit.id} onClick={() => setWeightUnit(unit.id)} aria-current={unit.id === weightUnit.id}>
            {unit.name} ({unit.id})
          </Menu.Item>
        ))}
        <Menu.Label>Temperatures in</Menu.Label>
        {(['°C', '°F'] as const).map((unit) => (
          <Menu.Item key={unit} onClick={() => setTemperatureUnit(unit)} aria-current={unit === temperatureUnit}>
            {unit}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

function ThemeSwitch() {
  const { setColorScheme } = useMantineColorScheme();
  const shown = useComputedColorScheme('light');
  const other = shown === 'light' ? 'dark' : 'light';
  return (
    <button
      type="button"
      className={classes.tool}
      onClick={() => setColorScheme(other)}
      aria-label={`Use the ${other} theme`}
      title={`Use the ${other} theme`}
    >
      <ThemeIcon />
    </button>
  );
}

function useShellCommands(openSheet: () => void) {
  const { setWeightUnit, weightUnits, letterShortcuts } = useSettings();
  const { toggleColorScheme } = useMantineColorScheme();
  const navigate = useNavigate();
  const commands = useMemo<Command[]>(
    () => [
      { id: 'palette', group: 'Everywhere', label: 'Find or do', keys: 'mod+K' },
      { id: 'shortcuts', group: 'Everywhere', label: 'Keyboard shortcuts', keys: '?', run: openSheet },
      { id: 'formulas', group: 'Everywhere', label: 'Go to the formulas', run: () => void navigate('/') },
      { id: 'trials', group: 'Everywhere', label: 'Go to the trials', run: () => void navigate('/trials') },
      { id: 'batches', group: 'Everywhere', label: 'Go to the batches', run: () => void navigate('/batches') },
      { id: 'shelf', group: 'Everywhere', label: 'Go to the shelf', run: () => void navigate('/shelf') },
      { id: 'theme', group: 'Everywhere', label: 'Light or dark theme', run: toggleColorScheme },
      ...weightUnits.map((unit) => ({
        id: `unit-${unit.id}`,
        group: 'Everywhere',
        label: `Weights in ${unit.name}`,
        run: () => setWeightUnit(unit.id),
      })),
    ],
    [openSheet, navigate, toggleColorScheme, weightUnits, setWeightUnit],
  );
  useCommands('shell', commands);
  useHotkeys(letterShortcuts ? [['shift+?', openSheet]] : []);
}

function Palette() {
  const commands = useOffered();
  const { data: formulas = [] } = useFormulas('', false);
  const navigate = useNavigate();
  const actions: SpotlightActionData[] = [
    ...formulas.map((formula) => ({
      id: `open-${formula.id}`,
      group: 'Open',
      label: formula.name,
      description: formula.strata.map((stratum) => stratum.name).join(' · '),
      onClick: () => void navigate(`/formulas/${formula.id}`),
    })),
    ...commands
      .filter((command) => command.run !== undefined)
      .map((command) => ({
        id: command.id,
        group: command.group,
        label: command.label,
        description: command.description,
        rightSection: command.keys ? <span className={classes.key}>{keyCaps(command.keys).join(' ')}</span> : undefined,
        onClick: () => command.run?.(),
      })),
  ];
  const groups = [...new Set(actions.map((action) => action.group))].map((group) => ({
    group: group ?? '',
    actions: actions.filter((action) => action.group === group),
  }));
  return (
    <Spotlight
      actions={groups}
      shortcut="mod + K"
      tagsToIgnore={[]}
      nothingFound="Nothing by that name"
      highlightQuery
      scrollable
      maxHeight={420}
      searchProps={{ placeholder: 'A formula, an oil, a purpose, a command …', 'aria-label': 'Find or do' }}
    />
  );
}
