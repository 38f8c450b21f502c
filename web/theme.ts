import { createSystem, defaultBaseConfig, defineConfig } from '@chakra-ui/react';
import {
  animationStyles,
  breakpoints,
  buttonRecipe,
  checkboxSlotRecipe,
  checkmarkRecipe,
  comboboxSlotRecipe,
  cssVarsPrefix,
  cssVarsRoot,
  datePickerSlotRecipe,
  dialogSlotRecipe,
  fieldSlotRecipe,
  globalCss,
  headingRecipe,
  iconRecipe,
  inputAddonRecipe,
  inputRecipe,
  keyframes,
  layerStyles,
  linkRecipe,
  listSlotRecipe,
  menuSlotRecipe,
  nativeSelectSlotRecipe,
  popoverSlotRecipe,
  progressSlotRecipe,
  radioGroupSlotRecipe,
  radiomarkRecipe,
  semanticTokens,
  skeletonRecipe,
  skipNavLinkRecipe,
  spinnerRecipe,
  tableSlotRecipe,
  textareaRecipe,
  textStyles,
  tokens,
} from '@chakra-ui/react/theme';

const both = (light: string, dark: string) => ({ value: { _light: light, _dark: dark } });

/** How the parts look that are used here: the recipes of all others would be loaded with the first screen. */
const parts = defineConfig({
  preflight: true,
  cssVarsPrefix,
  cssVarsRoot,
  globalCss,
  theme: {
    ...{ breakpoints, keyframes, tokens, semanticTokens, textStyles, layerStyles, animationStyles },
    recipes: {
      button: buttonRecipe,
      checkmark: checkmarkRecipe,
      heading: headingRecipe,
      icon: iconRecipe,
      input: inputRecipe,
      inputAddon: inputAddonRecipe,
      link: linkRecipe,
      radiomark: radiomarkRecipe,
      skeleton: skeletonRecipe,
      skipNavLink: skipNavLinkRecipe,
      spinner: spinnerRecipe,
      textarea: textareaRecipe,
    },
    slotRecipes: {
      checkbox: checkboxSlotRecipe,
      combobox: comboboxSlotRecipe,
      datePicker: datePickerSlotRecipe,
      dialog: dialogSlotRecipe,
      field: fieldSlotRecipe,
      list: listSlotRecipe,
      menu: menuSlotRecipe,
      nativeSelect: nativeSelectSlotRecipe,
      popover: popoverSlotRecipe,
      progress: progressSlotRecipe,
      radioGroup: radioGroupSlotRecipe,
      table: tableSlotRecipe,
    },
  },
});

/** The colours, type and measures of the interface, light and dark, by what they mean. */
export const system = createSystem(
  defaultBaseConfig,
  parts,
  defineConfig({
    theme: {
      tokens: {
        fonts: {
          body: { value: "'Public Sans Variable', system-ui, sans-serif" },
          heading: { value: "'Literata Variable', Georgia, serif" },
        },
        radii: { sm: { value: '3px' }, md: { value: '4px' }, lg: { value: '4px' } },
      },
      semanticTokens: {
        colors: {
          ground: both('#F3F6F4', '#10191B'),
          page: both('#FFFFFF', '#172225'),
          ink: both('#16262B', '#E4ECEA'),
          muted: both('#56666B', '#9DB0B0'),
          lines: both('#D5DEDA', '#2C3B3E'),
          kelp: {
            solid: both('#0E6655', '#1B7F6B'),
            contrast: both('#FFFFFF', '#FFFFFF'),
            fg: both('#0E6655', '#63C9B2'),
            muted: both('#D9EAE5', '#1D3B36'),
            subtle: both('#EAF3F0', '#1A2F2C'),
            emphasized: both('#BFDCD4', '#24504A'),
            focusRing: both('#0E6655', '#63C9B2'),
          },
          collected: both('#3E7A3A', '#7CBF76'),
          planned: both('#5B6F86', '#9DB3CC'),
          trial: both('#8F5F04', '#E0A63A'),
          declined: both('#B0392B', '#F0897C'),
          paused: both('#76608F', '#B9A3D3'),
          fg: { error: both('#B0392B', '#F0897C') },
          border: { error: both('#B0392B', '#F0897C') },
        },
      },
    },
    globalCss: {
      html: { bg: 'ground' },
      body: {
        bg: 'ground',
        color: 'ink',
        fontSize: '14px',
        lineHeight: '1.45',
        fontVariantNumeric: 'tabular-nums',
      },
      'h1, h2, h3': { fontFamily: 'heading' },
      // A button at work keeps its name for who cannot see its spinner.
      '.chakra-button[data-loading] > span > span:last-of-type': {
        visibility: 'visible !important',
        color: 'transparent !important',
      },
      '*:focus-visible': { outline: '2px solid', outlineColor: 'kelp.fg', outlineOffset: '1px' },
    },
  }),
);
