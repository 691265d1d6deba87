// The one place for colours and measures. The dark theme is of the same family.
import { theme as antd, type ThemeConfig } from "antd";

export type Palette = {
  paper: string;
  ground: string;
  raised: string;
  ink: string;
  quiet: string;
  line: string;
  kelp: string;
  kelpWash: string;
  amber: string;
  brick: string;
};

export const light: Palette = {
  paper: "#FBFAF6",
  ground: "#F3F0E7",
  raised: "#FFFFFF",
  ink: "#1F2A37",
  quiet: "#566070",
  line: "#DDD8CA",
  kelp: "#1D6B5C",
  kelpWash: "#E3EFEA",
  amber: "#8F5A0B",
  brick: "#B23A2E",
};

export const dark: Palette = {
  paper: "#171C22",
  ground: "#11151A",
  raised: "#1F262E",
  ink: "#E9E6DC",
  quiet: "#A9B0B8",
  line: "#36404A",
  kelp: "#66BBA7",
  kelpWash: "#1F3833",
  amber: "#E3AC55",
  brick: "#F08B7E",
};

const fonts = "'Source Sans 3 Variable', 'Segoe UI', system-ui, sans-serif";

const edge = (line: string) => `0 0 0 1px ${line}, 0 6px 16px rgb(0 0 0 / 45%)`;

export function themeOf(p: Palette, { isDark, isCalm }: { isDark: boolean; isCalm: boolean }): ThemeConfig {
  return {
    algorithm: isDark ? [antd.darkAlgorithm, antd.compactAlgorithm] : antd.compactAlgorithm,
    token: {
      colorPrimary: p.kelp,
      colorInfo: p.kelp,
      colorError: p.brick,
      colorWarning: p.amber,
      colorSuccess: p.kelp,
      colorText: p.ink,
      colorTextSecondary: p.quiet,
      colorTextDescription: p.quiet,
      colorTextPlaceholder: p.quiet,
      colorBgBase: p.paper,
      colorBgContainer: p.raised,
      colorBgElevated: p.raised,
      colorBgLayout: p.paper,
      colorBorder: p.line,
      colorBorderSecondary: p.line,
      colorLink: p.kelp,
      fontFamily: fonts,
      fontSize: 14,
      borderRadius: 3,
      wireframe: false,
      motion: !isCalm,
      // what lies over a page stands out from it by its edge: shadows do not show in the dark
      ...(isDark && { boxShadow: edge(p.line), boxShadowSecondary: edge(p.line) }),
    },
    components: {
      Button: isDark ? { primaryColor: p.ground } : {},
      Table: { headerBg: p.ground, headerColor: p.quiet, rowHoverBg: p.kelpWash },
    },
  };
}

// Choices carry colour words in the setup; here is what the words look like.
// Each pair holds AA contrast of text on its wash.
type Wash = [string, string, string, string];
const grey: Wash = ["#E9E7E0", "#3F4854", "#333B44", "#D5D8DC"];
export const washes: Record<string, Wash> = {
  grey,
  blue: ["#DEE8F3", "#24507F", "#23364B", "#A9CBEE"],
  teal: ["#DDEFEA", "#195E51", "#1F3833", "#8FD3C3"],
  green: ["#E3EFDC", "#35611F", "#28381F", "#B3D69C"],
  amber: ["#F6E7CC", "#7A4C06", "#41331A", "#EBC27A"],
  brick: ["#F6DED9", "#8F2B21", "#462523", "#F3A79C"],
  violet: ["#E9E1F2", "#573A80", "#362B47", "#CDB6EC"],
  rose: ["#F5DFE8", "#8A2C55", "#44242F", "#F0A9C4"],
};

export function washOf(colour: string | undefined, isDark: boolean): { background: string; color: string } {
  const [paper, text, night, glow] = washes[colour ?? "grey"] ?? grey;
  return isDark ? { background: night, color: glow } : { background: paper, color: text };
}

export function cssVariables(p: Palette): Record<string, string> {
  return Object.fromEntries(Object.entries(p).map(([name, value]) => [`--${name}`, value]));
}
