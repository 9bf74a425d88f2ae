import { createTheme, type MantineColorsTuple } from "@mantine/core";

const water: MantineColorsTuple = [
  "#eef5f8",
  "#dce9ef",
  "#b7d2de",
  "#8fbad0",
  "#6ba4bf",
  "#4b8dab",
  "#347594",
  "#245a75",
  "#1c4a61",
  "#13384b",
];

const brick: MantineColorsTuple = [
  "#fbefec",
  "#f5dcd6",
  "#eab8ad",
  "#df9485",
  "#d27463",
  "#c15846",
  "#ad4433",
  "#9b3324",
  "#81291c",
  "#651f15",
];

/** The console's theme; the marks of records and values are in styles.css and merge/compare.css. */
export const theme = createTheme({
  primaryColor: "water",
  primaryShade: { light: 7, dark: 6 },
  autoContrast: true,
  colors: { water, brick },
  fontFamily: '"Source Sans 3 Variable", system-ui, sans-serif',
  fontSizes: { xs: "12px", sm: "13.5px", md: "14.5px", lg: "17px", xl: "21px" },
  lineHeights: { sm: "1.35", md: "1.4" },
  headings: { fontFamily: '"Source Sans 3 Variable", system-ui, sans-serif', fontWeight: "650" },
  defaultRadius: 3,
  respectReducedMotion: true,
  cursorType: "pointer",
});
