/** Paper and harbour: our tokens over Chakra's defaults, for light and dark. */
import { createSystem, defaultBaseConfig, defineConfig, defineSlotRecipe } from "@chakra-ui/react";
import {
  animationStyles,
  breakpoints,
  buttonRecipe,
  checkboxSlotRecipe,
  checkmarkRecipe,
  cssVarsPrefix,
  cssVarsRoot,
  dialogSlotRecipe,
  fieldSlotRecipe,
  globalCss,
  headingRecipe,
  inputRecipe,
  kbdRecipe,
  keyframes,
  layerStyles,
  linkRecipe,
  menuSlotRecipe,
  nativeSelectSlotRecipe,
  popoverSlotRecipe,
  progressSlotRecipe,
  radioGroupSlotRecipe,
  radiomarkRecipe,
  semanticTokens,
  sliderSlotRecipe,
  spinnerRecipe,
  switchSlotRecipe,
  tableSlotRecipe,
  textareaRecipe,
  textStyles,
  toastSlotRecipe,
  tokens,
} from "@chakra-ui/react/theme";

const pair = (light: string, dark: string) => ({ value: { _light: light, _dark: dark } });

const palette = (solid: [string, string], fg: [string, string], subtle: [string, string]) => ({
  solid: pair(...solid),
  contrast: pair("#FFFEFA", "#10191A"),
  fg: pair(...fg),
  subtle: pair(...subtle),
  muted: pair(...subtle),
  emphasized: pair(...subtle),
  border: pair(...fg),
  focusRing: pair("#B8521A", "#F0A06C"),
});

/** A slider is taken hold of by 24 px (WCAG 2.2, 2.5.8), of which 16 are seen. */
const SLIDER = defineSlotRecipe({
  slots: ["root", "thumb"],
  variants: {
    size: { sm: { root: { "--slider-thumb-size": "24px" } } },
    variant: {
      outline: {
        thumb: {
          borderWidth: "0",
          bg: "transparent",
          _disabled: { bg: "transparent" },
          _before: {
            content: '""',
            boxSize: "16px",
            borderRadius: "full",
            borderWidth: "2px",
            borderColor: "colorPalette.solid",
            bg: "bg",
          },
        },
      },
    },
  },
});

const config = defineConfig({
  globalCss: {
    "html, body, #root": { height: "100%" },
    body: {
      bg: "paper",
      color: "ink",
      fontFamily: "body",
      fontSize: "14px",
      lineHeight: "1.45",
      fontVariantNumeric: "tabular-nums",
    },
    "*:focus-visible": { outlineColor: "pine.focusRing" },
    // Whoever asked for less movement gets what opens at once.
    "*, *::before, *::after": {
      _motionReduce: { animationDuration: "1ms !important", transitionDuration: "1ms !important" },
    },
  },
  theme: {
    keyframes: { fill: { from: { width: "0" }, to: { width: "100%" } } },
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible', system-ui, sans-serif" },
        heading: { value: "'Source Serif 4', Georgia, serif" },
        script: { value: "'Source Serif 4', Georgia, serif" },
      },
    },
    slotRecipes: { slider: SLIDER },
    semanticTokens: {
      colors: {
        paper: pair("#F7F4ED", "#14191A"),
        raised: pair("#FFFEFA", "#1D2425"),
        ink: pair("#1D2526", "#E9E5DB"),
        quiet: pair("#5C625F", "#A5ACA8"),
        rule: pair("#DDD6C8", "#343D3E"),
        wash: pair("#EBE4D6", "#2A3334"),
        mark: pair("#F3D5C1", "#5A3A28"),
        apricot: pair("#E07A3F", "#F0965F"),
        ochre: pair("#8A6114", "#D9A94F"),
        trouble: pair("#B3372F", "#F08A80"),
        bg: { DEFAULT: pair("#F7F4ED", "#14191A"), panel: pair("#FFFEFA", "#1D2425") },
        fg: { DEFAULT: pair("#1D2526", "#E9E5DB"), muted: pair("#5C625F", "#A5ACA8") },
        border: { DEFAULT: pair("#DDD6C8", "#343D3E") },
        gray: {
          solid: pair("#1D2526", "#E9E5DB"),
          contrast: pair("#F7F4ED", "#14191A"),
          fg: pair("#1D2526", "#E9E5DB"),
          subtle: pair("#EBE4D6", "#2A3334"),
          muted: pair("#EBE4D6", "#2A3334"),
          emphasized: pair("#DDD6C8", "#343D3E"),
          border: pair("#B9B09C", "#56615F"),
          focusRing: pair("#B8521A", "#F0A06C"),
        },
        pine: palette(["#1F5E54", "#6DBBAC"], ["#1F5E54", "#7CC5B7"], ["#E1EAE4", "#24403B"]),
        violet: palette(["#5A5387", "#A9A1DB"], ["#5A5387", "#B3ACE0"], ["#E7E4EF", "#322F4C"]),
        red: palette(["#B3372F", "#F08A80"], ["#A5302A", "#F08A80"], ["#F6E1DC", "#482522"]),
      },
    },
  },
});

const UNUSED = "orange yellow green teal blue cyan purple pink warning success info".split(" ");

const used = <T extends object>(from: T): T =>
  Object.fromEntries(Object.entries(from).filter(([name]) => !UNUSED.includes(name))) as T;

/** The defaults with nothing that is never used here: reading and working them out takes a good part
 * of the start. */
const defaults = defineConfig({
  ...defaultBaseConfig,
  preflight: true,
  cssVarsPrefix,
  cssVarsRoot,
  globalCss,
  theme: {
    breakpoints,
    keyframes,
    textStyles,
    layerStyles,
    animationStyles,
    tokens: { ...tokens, colors: used(tokens.colors ?? {}) },
    semanticTokens: {
      ...semanticTokens,
      colors: Object.fromEntries(
        Object.entries(used(semanticTokens.colors ?? {})).map(([name, shades]) => [
          name,
          used(shades),
        ]),
      ),
    },
    recipes: {
      button: buttonRecipe,
      checkmark: checkmarkRecipe,
      heading: headingRecipe,
      input: inputRecipe,
      kbd: kbdRecipe,
      link: linkRecipe,
      radiomark: radiomarkRecipe,
      spinner: spinnerRecipe,
      textarea: textareaRecipe,
    },
    slotRecipes: {
      checkbox: checkboxSlotRecipe,
      dialog: dialogSlotRecipe,
      field: fieldSlotRecipe,
      menu: menuSlotRecipe,
      nativeSelect: nativeSelectSlotRecipe,
      popover: popoverSlotRecipe,
      progress: progressSlotRecipe,
      radioGroup: radioGroupSlotRecipe,
      slider: sliderSlotRecipe,
      switch: switchSlotRecipe,
      table: tableSlotRecipe,
      toast: toastSlotRecipe,
    },
  },
});

export const system = createSystem(defaults, config);
