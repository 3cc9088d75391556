import { definePreset } from "@primeuix/themes";
import Aura from "@primeuix/themes/aura";

/** Kame's own preset: slate-green of wet shell, square corners of a drawing office. */
export const KamePreset = definePreset(Aura, {
  primitive: { borderRadius: { none: "0", xs: "1px", sm: "2px", md: "3px", lg: "4px", xl: "6px" } },
  semantic: {
    primary: {
      50: "#eef6f4",
      100: "#d3e8e3",
      200: "#a8d2ca",
      300: "#76b5ab",
      400: "#46958b",
      500: "#23766e",
      600: "#175e58",
      700: "#124b47",
      800: "#0f3c39",
      900: "#0c302e",
      950: "#071e1d",
    },
    colorScheme: {
      light: {
        primary: {
          color: "{primary.600}",
          contrastColor: "#ffffff",
          hoverColor: "{primary.700}",
          activeColor: "{primary.800}",
        },
        surface: {
          0: "#ffffff",
          50: "#fbf9f3",
          100: "#f4f0e5",
          200: "#e6e0d0",
          300: "#d0c8b4",
          400: "#a49c88",
          500: "#6f6a5b",
          600: "#57534a",
          700: "#403e38",
          800: "#2b2b28",
          900: "#1c1e1d",
          950: "#111312",
        },
      },
      dark: {
        primary: {
          color: "{primary.300}",
          contrastColor: "#071e1d",
          hoverColor: "{primary.200}",
          activeColor: "{primary.100}",
        },
        surface: {
          0: "#ffffff",
          50: "#eef1ef",
          100: "#d5dbd8",
          200: "#b3bdb9",
          300: "#93a09b",
          400: "#74827d",
          500: "#586661",
          600: "#414d49",
          700: "#2f3936",
          800: "#232b29",
          900: "#1a2120",
          950: "#121716",
        },
      },
    },
  },
});
