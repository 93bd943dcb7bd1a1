import { Button, MantineProvider, Menu, SegmentedControl, TextInput } from '@mantine/core';
import { useState, type ReactNode } from 'react';
import { useSearchParams } from 'react-router';

import { MenuButton } from './MenuButton';
import { MoreIcon, UndoIcon } from './icons';
import buttons from './buttons.module.css';
import classes from './Gallery.module.css';
import { NumberField } from './NumberField';
import { Panel } from './Panel';
import { formatNumber, parseNumber } from './quantity';
import { IN_ORDER, Scale } from './scales/Scale';
import { SelectField } from './SelectField';
import { Stages } from './Stages';
import { Swatch } from './Swatch';
import { TabbedPanel } from './TabbedPanel';
import { resolver, theme } from './theme';

const COLOURS = ['ground', 'panel', 'field', 'ink', 'muted', 'line', 'line-strong', 'action', 'in-range', 'watch', 'watch-fill', 'caustic', 'caustic-tint', 'highlight'];
const SIZES = ['--size-1', '--size-2', '--size-3', '--size-4', '--size-5', '--size-6', '--size-7', '--size-8'];
const TONES = ['short', 'lauric', 'palmitic', 'stearic', 'oleic', 'ricinoleic', 'linoleic', 'linolenic'];

/** All parts in both themes, for those who build screens; the development server alone has it. */
export function Gallery() {
  const [params] = useSearchParams();
  const only = params.get('theme');
  if (only === 'light' || only === 'dark') {
    return (
      <MantineProvider theme={theme} cssVariablesResolver={resolver} forceColorScheme={only}>
        <Parts />
      </MantineProvider>
    );
  }
  return (
    <div className={classes.both}>
      {['light', 'dark'].map((one) => (
        <iframe key={one} title={`Parts, ${one}`} src={`/design?theme=${one}`} />
      ))}
    </div>
  );
}

function Part({ name, children }: { name: string; children: ReactNode }) {
  return (
    <section className={classes.part}>
      <h2>{name}</h2>
      <div>{children}</div>
    </section>
  );
}

function Parts() {
  const [tab, setTab] = useState('one');
  const [choice, setChoice] = useState('a');
  return (
    <main className={classes.parts}>
      <h1>Parts</h1>
      <Part name="Scale">
        <Scale low={0} high={100} height={46} middle={24} range={{ minimum: 36, maximum: 48 }} hasEnds uncertainty={{ low: 39, high: 46 }} yours={{ low: 33, points: 40, high: 47 }} marks={[{ at: 37, shape: 'up', tone: 'reference' }, { at: 43, shape: 'disc', tone: 'filled' }]} role="img" aria-label="In its range" />
        <Scale low={0} high={100} marks={IN_ORDER.map((shape, i) => ({ at: 12 + 15 * i, shape, tone: i === 0 ? 'filled' : i === 1 ? 'watch' : 'hollow' }))} role="img" aria-label="One shape for each mark" />
        <Scale low={-1} high={9} height={22} middle={12} capsule={{ low: -0.5, high: 4, isAlarming: true }} line={{ at: 0, tone: 'caustic', text: '0' }} role="img" aria-label="A range that crosses zero" />
      </Part>
      <Part name="Colours">
        {COLOURS.map((colour) => (
          <span key={colour} className={classes.colour}>
            <i style={{ background: `var(--${colour})` }} /> {colour}
          </span>
        ))}
      </Part>
      <Part name="Tones of oils, soft and hard">
        {TONES.map((tone) => (
          <span key={tone} className={classes.colour}>
            <Swatch group={tone} hard={false} /> <Swatch group={tone} hard /> {tone}
          </span>
        ))}
      </Part>
      <Part name="Type">
        {SIZES.map((size) => (
          <p key={size} style={{ fontSize: `var(${size})`, margin: 0 }}>
            Soap 143.0 g <span className="quantity">143.0</span>
          </p>
        ))}
      </Part>
      <Part name="Buttons and chips">
        <Button variant="filled">Main</Button>
        <Button>Other</Button>
        <Button variant="filled" disabled>
          Not now
        </Button>
        <button type="button" className={buttons.chip}>
          a chip ▾
        </button>
        <button type="button" className={buttons.link}>
          a link
        </button>
        <button type="button" className={buttons.drop} aria-label="Take out">
          ×
        </button>
        <MoreIcon /> <UndoIcon />
      </Part>
      <Part name="Fields">
        <Sample label="Superfat" value={5} />
        <Sample label="Leads" value={33} leading />
        <Sample label="Still open" value={null} isOpen problem="Enter 50 % to 100 %." />
        <Sample label="Wrong" value={140} problem="140 % is more than 100 %." />
        <SelectField showLabel label="Choice" value={choice} options={[{ value: 'a', label: 'one' }, { value: 'b', label: 'another' }]} onChange={setChoice} />
        <TextInput placeholder="Words" aria-label="Words" />
        <SegmentedControl data={['g', 'oz']} />
      </Part>
      <Part name="Stages and menus">
        <Stages label="Stages" stages={[{ to: '/design', label: 'Design' }, { to: '/elsewhere', label: 'Solve' }]} />
        <MenuButton button={<Button>Menu ▾</Button>}>
          <Menu.Label>A label</Menu.Label>
          <Menu.Item aria-current>Chosen</Menu.Item>
          <Menu.Item>Other</Menu.Item>
        </MenuButton>
      </Part>
      <Part name="Panels">
        <Panel title="A panel" aside="an aside">
          What it holds.
        </Panel>
        <TabbedPanel
          title="Tabbed"
          selected={tab}
          onSelect={setTab}
          tabs={[
            { id: 'one', label: 'One', content: 'First page.' },
            { id: 'two', label: 'Two', count: 3, content: 'Second page.' },
          ]}
        />
      </Part>
    </main>
  );
}

interface SampleProps {
  label: string;
  value: number | null;
  leading?: boolean;
  isOpen?: boolean;
  problem?: string;
}

function Sample({ label, value: first, ...rest }: SampleProps) {
  const [value, setValue] = useState(first);
  const [unread, setUnread] = useState<string | null>(null);
  return (
    <NumberField
      showLabel
      label={label}
      value={value}
      unit="%"
      step={1}
      format={(shown) => formatNumber(shown, 1, 0)}
      parse={parseNumber}
      unread={unread ?? undefined}
      onUnread={setUnread}
      onChange={setValue}
      {...rest}
    />
  );
}
