/** Colours of the body view in the two displays; WebGL cannot read the tokens of the style sheet. */
export const colours = (dim: boolean) =>
  dim
    ? {
        ground: "#0f0c09",
        stone: "#85796a",
        ink: "#050403",
        line: "#ecdcc4",
        now: "#ffab40",
        bone: "#d8c9ae",
        light: 0.9,
      }
    : {
        ground: "#eceff1",
        stone: "#dcdad4",
        ink: "#1c1e20",
        line: "#14181b",
        now: "#e08600",
        bone: "#8f8a7c",
        light: 1.6,
      };

export type Colours = ReturnType<typeof colours>;
