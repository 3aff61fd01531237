// Colours and font of the page around the map, as its custom properties --ochre-paper, --ochre-ink,
// --ochre-soft, --ochre-faint and --ochre-font say: inherited, or told by message (article.ts).
import type { Inks, Plan } from "./plan";

const INKS: Record<string, keyof Inks> = {
  paper: "ground",
  ink: "text",
  soft: "soft",
  faint: "faint",
};
export const LOOKS = [...Object.keys(INKS), "font"];

// Puts the host's colours in place of the plan's.
export function takeHostColours(root: HTMLElement, plan: Plan): void {
  const look = getComputedStyle(root);
  for (const [name, ink] of Object.entries(INKS)) {
    const colour = asHex(look.getPropertyValue(`--ochre-${name}`).trim());
    if (colour) plan.inks[ink] = colour;
  }
}

// Takes what a page around the map says; what is no colour is left out.
export function takeHostStyle(root: HTMLElement, given: unknown): boolean {
  if (typeof given !== "object" || given === null) return false;
  let taken = false;
  for (const name of LOOKS) {
    const value = (given as Record<string, unknown>)[name];
    if (typeof value !== "string" || value.length > 200) continue;
    if (!CSS.supports(name === "font" ? "font-family" : "color", value)) continue;
    root.style.setProperty(`--ochre-${name}`, value);
    taken = true;
  }
  return taken;
}

// A colour of CSS as #rrggbb; null for what is none, or is seen through.
function asHex(colour: string): string | null {
  if (!colour || !CSS.supports("color", colour)) return null;
  const c = document.createElement("canvas").getContext("2d");
  if (!c) return null;
  c.fillStyle = colour;
  return /^#[0-9a-f]{6}$/i.test(c.fillStyle) ? c.fillStyle : null;
}
