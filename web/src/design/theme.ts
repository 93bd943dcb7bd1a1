import {
  Button,
  Combobox,
  createTheme,
  Drawer,
  Input,
  Menu,
  Modal,
  Notification,
  Popover,
  SegmentedControl,
  Select,
  Switch,
  TextInput,
  Tooltip,
  type CSSVariablesResolver,
} from '@mantine/core';

import own from './mantine.module.css';

/** The heading of a dialog is no second banner of the page. */
const QUIET_HEADER = { header: { role: 'none' } };

export const theme = createTheme({
  fontFamily: 'var(--text)',
  fontFamilyMonospace: 'var(--result)',
  headings: { fontFamily: 'var(--display)', fontWeight: '700' },
  primaryColor: 'woad',
  primaryShade: { light: 7, dark: 3 },
  autoContrast: true,
  luminanceThreshold: 0.36,
  colors: {
    woad: [
      '#eef6f3',
      '#d8e9e3',
      '#b0d5c9',
      '#7cc4b0',
      '#57a892',
      '#3d8f7a',
      '#2a7a68',
      '#1f6a5c',
      '#17564a',
      '#0e4239',
    ],
  },
  defaultRadius: 'md',
  radius: { xs: '3px', sm: '5px', md: '7px', lg: '10px', xl: '14px' },
  fontSizes: { xs: 'var(--size-1)', sm: 'var(--size-2)', md: 'var(--size-3)', lg: 'var(--size-4)', xl: 'var(--size-5)' },
  components: {
    Button: Button.extend({ defaultProps: { size: 'sm', variant: 'default' }, classNames: { root: own.button } }),
    Combobox: Combobox.extend({ classNames: { dropdown: own.floating, option: own.option } }),
    Input: Input.extend({ classNames: { input: own.input } }),
    Menu: Menu.extend({
      defaultProps: { shadow: 'md', position: 'bottom-start' },
      classNames: { dropdown: own.floating, item: own.option, label: own.label },
    }),
    Notification: Notification.extend({ classNames: { root: own.field } }),
    Popover: Popover.extend({ classNames: { dropdown: own.floating } }),
    SegmentedControl: SegmentedControl.extend({ classNames: { root: own.segments, indicator: own.field, label: own.reach } }),
    Modal: Modal.extend({
      classNames: { content: own.floating, header: own.floating, title: own.title },
      defaultProps: {
        centered: true,
        overlayProps: { backgroundOpacity: 0.4 },
        attributes: QUIET_HEADER,
        closeButtonProps: { 'aria-label': 'Close' },
      },
    }),
    Drawer: Drawer.extend({
      defaultProps: { attributes: QUIET_HEADER },
      classNames: { content: own.floating, header: own.floating, title: own.title },
    }),
    Select: Select.extend({ defaultProps: { allowDeselect: false, checkIconPosition: 'right' } }),
    Switch: Switch.extend({ classNames: { body: own.body, label: own.reach, track: own.track } }),
    TextInput: TextInput.extend({ defaultProps: { size: 'sm' } }),
    Tooltip: Tooltip.extend({ defaultProps: { openDelay: 300, withArrow: true } }),
  },
});

/** Mantine's own variables, pointed at Sapolin's tokens, so that both themes follow one list of colours. */
export const resolver: CSSVariablesResolver = () => {
  const shared = {
    '--mantine-color-body': 'var(--ground)',
    '--mantine-color-text': 'var(--ink)',
    '--mantine-color-dimmed': 'var(--muted)',
    '--mantine-color-placeholder': 'var(--muted)',
    '--mantine-color-default': 'var(--panel)',
    '--mantine-color-default-hover': 'var(--highlight)',
    '--mantine-color-default-color': 'var(--ink)',
    '--mantine-color-default-border': 'var(--line)',
    '--mantine-color-disabled': 'var(--highlight)',
    '--mantine-color-disabled-color': 'var(--muted)',
    '--mantine-color-disabled-border': 'var(--line)',
    '--mantine-color-error': 'var(--caustic)',
    '--mantine-color-anchor': 'var(--action)',
  };
  return { variables: {}, light: shared, dark: shared };
};
