import { type CSSVariablesResolver, createTheme, type MantineColorsTuple } from '@mantine/core';

const amber: MantineColorsTuple = [
  '#fdf5e6',
  '#f6ead6',
  '#ecd3a8',
  '#e2bb77',
  '#d9a54f',
  '#d0933a',
  '#bd7716',
  '#a55a00',
  '#8a4b00',
  '#6f3c00',
];

/** Mantine carries the behaviour; its look is set here and in ui/look so that none of its default is left. */
export const theme = createTheme({
  primaryColor: 'amber',
  primaryShade: { light: 7, dark: 4 },
  colors: { amber },
  fontFamily: "'Atkinson Hyperlegible', sans-serif",
  fontFamilyMonospace: "'Atkinson Hyperlegible Mono', monospace",
  fontSizes: { xs: '12px', sm: '13.5px', md: '15px', lg: '17px', xl: '21px' },
  headings: { fontFamily: "'Atkinson Hyperlegible', sans-serif", fontWeight: '700' },
  defaultRadius: 3,
  cursorType: 'pointer',
  respectReducedMotion: true,
  focusRing: 'always',
  components: {
    Button: { defaultProps: { size: 'sm', variant: 'default' } },
    TextInput: { defaultProps: { size: 'sm' } },
    Modal: {
      defaultProps: { centered: true, overlayProps: { backgroundOpacity: 0.35 }, transitionProps: { duration: 90 } },
    },
    Menu: {
      defaultProps: { withInitialFocusPlaceholder: false, shadow: 'sm', transitionProps: { duration: 90 } },
    },
  },
});

export const variables: CSSVariablesResolver = () => ({
  variables: {},
  light: {
    '--mantine-color-body': 'var(--paper)',
    '--mantine-color-text': 'var(--ink)',
    '--mantine-color-dimmed': 'var(--soft)',
    '--mantine-color-default': 'var(--sheet)',
    '--mantine-color-default-hover': 'var(--wash)',
    '--mantine-color-default-color': 'var(--ink)',
    '--mantine-color-default-border': 'var(--line)',
    '--mantine-color-placeholder': 'var(--soft)',
    '--mantine-color-error': 'var(--plum)',
  },
  dark: {
    '--mantine-color-body': 'var(--paper)',
    '--mantine-color-text': 'var(--ink)',
    '--mantine-color-dimmed': 'var(--soft)',
    '--mantine-color-default': 'var(--sheet)',
    '--mantine-color-default-hover': 'var(--wash)',
    '--mantine-color-default-color': 'var(--ink)',
    '--mantine-color-default-border': 'var(--line)',
    '--mantine-color-placeholder': 'var(--soft)',
    '--mantine-color-error': 'var(--plum)',
  },
});
