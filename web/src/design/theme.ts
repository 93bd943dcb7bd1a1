import {
  Button,
  createTheme,
  Drawer,
  Menu,
  Modal,
  Select,
  TextInput,
  Tooltip,
  type CSSVariablesResolver,
} from '@mantine/core';

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
  fontSizes: { xs: '12px', sm: '13.5px', md: '15px', lg: '18px', xl: '22px' },
  components: {
    Button: Button.extend({ defaultProps: { size: 'sm', variant: 'default' } }),
    Menu: Menu.extend({ defaultProps: { shadow: 'md', position: 'bottom-start' } }),
    Modal: Modal.extend({
      defaultProps: {
        centered: true,
        overlayProps: { backgroundOpacity: 0.4 },
        attributes: QUIET_HEADER,
        closeButtonProps: { 'aria-label': 'Close' },
      },
    }),
    Drawer: Drawer.extend({ defaultProps: { attributes: QUIET_HEADER } }),
    Select: Select.extend({ defaultProps: { allowDeselect: false, checkIconPosition: 'right' } }),
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
    '--mantine-color-error': 'var(--caustic)',
    '--mantine-color-anchor': 'var(--action)',
  };
  return { variables: {}, light: shared, dark: shared };
};
