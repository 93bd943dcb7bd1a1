import { Menu, useComputedColorScheme, useMantineColorScheme } from '@mantine/core';
import { useDisclosure, useHotkeys } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useEffect, useMemo, useRef } from 'react';
import { Link, NavLink, Outlet, useLocation, useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { useHealth, useIsLimited } from '../api/queries';
import { MenuButton } from '../design/MenuButton';
import { UnsavedNotice } from '../sync/settleUnsaved';
import { useCommands, type Command } from './commands';
import { ThemeIcon } from '../design/icons';
import { openPalette } from './openPalette';
import { Pending } from './Pending';
import { MAKE_AND_RACK, PLACES } from './places';
import { useSettings } from './settings';
import classes from './Shell.module.css';
import { ShortcutsSheet } from './ShortcutsSheet';
import { useTellFailure } from './showFailure';

const HEADING_MS = 3000;
const fetchPalette = () => import('./Palette');
const Palette = lazy(fetchPalette);

/** The frame around every screen: the places of the workshop, what can be found or done, units and theme. */
export function Shell() {
  const [isSheetOpen, sheet] = useDisclosure(false);
  // The palette is fetched when it is first asked for; from then on it answers its shortcut itself.
  const [isPaletteHere, palette] = useDisclosure(false);
  const tellFailure = useTellFailure();
  const askForPalette = () => void fetchPalette().then(palette.open, tellFailure);
  const device = useHealth()?.device;
  const isLimited = useIsLimited();
  const places = isLimited ? MAKE_AND_RACK : PLACES;
  useShellCommands(sheet.open);
  useHotkeys(isPaletteHere || isLimited ? [] : [['mod+K', askForPalette]], []);
  useHeadingFocus();

  return (
    <>
      <a className={classes.skip} href="#screen">
        To the content
      </a>
      <header className={classes.bar}>
        <Link to="/" className={classes.mark}>
          Sapolin
        </Link>
        <nav className={classes.nav} aria-label="Places">
          {places.map((place) => (
            <NavLink key={place.to} to={place.to} end={'end' in place}>
              {place.label}
            </NavLink>
          ))}
        </nav>
        <DemoMenu />
        <span className={classes.spring} />
        {device?.kind === 'paired' && (
          <span className={classes.device} data-testid="this-device">
            {device.name}
          </span>
        )}
        {!isLimited && (
          <button type="button" className={classes.tool} onClick={isPaletteHere ? openPalette : askForPalette} data-testid="find">
            Find or do <span className={classes.key}>Ctrl K</span>
          </button>
        )}
        <UnitMenu />
        <ThemeSwitch />
      </header>
      <UnsavedNotice />
      <Trouble />
      <main id="screen" className={classes.screen}>
        <Suspense fallback={<Pending />}>
          <Outlet />
        </Suspense>
      </main>
      <nav className={classes.foot} aria-label="Places, at hand">
        {places.map((place) => (
          <NavLink key={place.to} to={place.to} end={'end' in place}>
            {place.label}
          </NavLink>
        ))}
      </nav>
      {isPaletteHere && (
        <Suspense fallback={null}>
          <Palette />
        </Suspense>
      )}
      <ShortcutsSheet opened={isSheetOpen} onClose={sheet.close} />
    </>
  );
}

/** A new screen takes the focus to its heading, so that the keyboard and a screen reader begin there. */
function useHeadingFocus() {
  const { pathname } = useLocation();
  const last = useRef(pathname);
  useEffect(() => {
    if (last.current === pathname) return;
    last.current = pathname;
    const until = Date.now() + HEADING_MS;
    let frame = requestAnimationFrame(function look() {
      const heading = document.querySelector<HTMLElement>('#screen h1');
      const focused = document.activeElement;
      if (heading === null) {
        if (Date.now() < until) frame = requestAnimationFrame(look);
      } else if (!(focused instanceof HTMLInputElement)) {
        heading.tabIndex = -1;
        heading.focus({ preventScroll: true });
      }
    });
    return () => cancelAnimationFrame(frame);
  }, [pathname]);
}

/** What has to be done about the data soon. */
function Trouble() {
  const health = useHealth();
  if (!health?.trouble) return null;
  return (
    <p className={classes.trouble} role="alert" data-testid="trouble">
      {health.trouble} {health.device.kind === 'main' && <Link to="/guide/backups">Open Backups</Link>}
    </p>
  );
}

function DemoMenu() {
  const health = useHealth();
  const client = useQueryClient();
  const navigate = useNavigate();
  const tellFailure = useTellFailure();
  if (!health?.demo) return null;
  const reset = async () => {
    const notice = notifications.show({ message: 'The demo world is put back. It takes some seconds.', loading: true, autoClose: false, withCloseButton: false });
    try {
      await answered(api.POST('/api/demo/reset', { body: { confirm: true } }));
      void navigate('/');
      client.removeQueries({ queryKey: ['versions'] });
      await client.invalidateQueries();
      notifications.show({ message: 'The demo world is as it was shipped.' });
    } catch (error) {
      tellFailure(error);
    } finally {
      notifications.hide(notice);
    }
  };
  return (
    <MenuButton
      dropdown={{ maw: 330 }}
      button={
        <button type="button" className={classes.demo}>
          demo: Juniper Ridge ▾
        </button>
      }
    >
      <Menu.Label>
        A made-up workshop that supplies guest bars to mountain huts. It lives in a database of its own; your formulas
        are not touched.
      </Menu.Label>
      {health.device.kind === 'main' && <Menu.Item onClick={() => void reset()}>Reset: undo everything done in the demo</Menu.Item>}
    </MenuButton>
  );
}

function UnitMenu() {
  const { weightUnit, weightUnits, setWeightUnit, temperatureUnit, setTemperatureUnit } = useSettings();
  return (
    <MenuButton
      position="bottom-end"
      button={
        <button
          type="button"
          className={classes.tool}
          aria-label={`${weightUnit.id}: weights in ${weightUnit.name}. Change`}
        >
          {weightUnit.id} <span aria-hidden>▾</span>
        </button>
      }
    >
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
    </MenuButton>
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
      ...PLACES.map((place) => ({
        id: `go-${place.label.toLowerCase()}`,
        group: 'Everywhere',
        label: `Go to ${place.label}`,
        run: () => void navigate(place.to),
      })),
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
