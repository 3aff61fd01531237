// Light or dark as the reader has set it: the plan brings the colours of both, and only they are
// exchanged.
import type { Plan } from "./plan";

type Tree = Record<string, unknown>;

// Exchanges the colours of `into` with those of `other`, in place; what only one of them has stays.
export function exchange(into: Tree, other: Tree): void {
  const isColours = (value: unknown) => Array.isArray(value) && typeof value[0] === "string";
  for (const [key, value] of Object.entries(other)) {
    const old = into[key];
    if (old === null || old === undefined || value === null) continue;
    if (typeof value === "object" && typeof old === "object" && !isColours(value))
      exchange(old as Tree, value as Tree);
    else {
      into[key] = value;
      other[key] = old;
    }
  }
}

// Follows until `life` ends.
export function followGround(payload: Plan, life: AbortSignal, changed: () => void): void {
  if (!payload.dark) return;
  const other = payload.dark as unknown as Tree;
  const wish = window.matchMedia("(prefers-color-scheme: dark)");
  const follow = () => {
    if (wish.matches === (payload.ground === "dark")) return;
    exchange(payload as unknown as Tree, other);
    payload.ground = wish.matches ? "dark" : "light";
    changed();
  };
  wish.addEventListener("change", follow, { signal: life });
  follow();
}
