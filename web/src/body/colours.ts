/** Colours of the body view in the two displays; WebGL cannot read the tokens of the style sheet. */
const DIM = {
  ground: "#0f0c09",
  stone: "#85796a",
  cloth: "#6d6357",
  ink: "#050403",
  line: "#ecdcc4",
  now: "#ffab40",
  bone: "#d8c9ae",
  stop: "#ff7a66",
  light: 0.9,
};
const LIGHT = {
  ground: "#eceff1",
  stone: "#dcdad4",
  cloth: "#c6cbcd",
  ink: "#1c1e20",
  line: "#14181b",
  now: "#e08600",
  bone: "#8f8a7c",
  stop: "#b3141b",
  light: 1.6,
};

export type Colours = typeof LIGHT;
export const colours = (dim: boolean): Colours => (dim ? DIM : LIGHT);
