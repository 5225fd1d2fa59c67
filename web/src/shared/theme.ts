/** Mantine, made ours: tokens instead of its palette, our type, quiet edges. */
import { type CSSVariablesResolver, createTheme, defaultVariantColorsResolver } from "@mantine/core";

const same = (value: string) => [value, value, value, value, value, value, value, value, value, value] as const;

export const theme = createTheme({
  fontFamily: "var(--font-text)",
  fontFamilyMonospace: "var(--font-figures)",
  headings: { fontFamily: "var(--font-text)", fontWeight: "620" },
  primaryColor: "ink",
  colors: {
    ink: same("var(--ink)"),
    // Mantine's dark scheme is the dim room: warm, low blue.
    dark: [
      "#ecdcc4",
      "#d8c7ae",
      "#b5a289",
      "#7e6c57",
      "#5a4b3b",
      "#3a3026",
      "#211b15",
      "#17130f",
      "#0f0c09",
      "#0a0806",
    ],
  },
  defaultRadius: 6,
  // Filled means ink; what stands on it is the ground, in both themes.
  variantColorResolver: (input) => {
    const colours = defaultVariantColorsResolver(input);
    return input.variant === "filled" ? { ...colours, color: "var(--ground)" } : colours;
  },
  autoContrast: false,
  cursorType: "pointer",
  respectReducedMotion: true,
  components: {
    Checkbox: { defaultProps: { iconColor: "var(--ground)" } },
    Button: { defaultProps: { size: "sm" } },
    Tooltip: { defaultProps: { openDelay: 300, color: "var(--ink)" } },
    Modal: { defaultProps: { centered: true, overlayProps: { backgroundOpacity: 0.5 } } },
  },
});

const variables = {
  "--mantine-color-body": "var(--ground)",
  "--mantine-color-text": "var(--ink)",
  "--mantine-color-dimmed": "var(--ink-2)",
  "--mantine-color-default": "var(--sheet)",
  "--mantine-color-default-hover": "var(--sunk)",
  "--mantine-color-default-color": "var(--ink)",
  "--mantine-color-default-border": "var(--line-strong)",
  "--mantine-color-placeholder": "var(--ink-2)",
  "--mantine-color-error": "var(--stop)",
  "--mantine-primary-color-filled": "var(--ink)",
  "--mantine-primary-color-filled-hover": "var(--ink-2)",
  "--mantine-primary-color-contrast": "var(--ground)",
  "--mantine-color-ink-filled": "var(--ink)",
  "--mantine-color-ink-filled-hover": "var(--ink-2)",
};

export const resolver: CSSVariablesResolver = () => ({ variables, light: variables, dark: variables });
