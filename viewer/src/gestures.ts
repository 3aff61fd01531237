// From pointer, wheel and keys to moving, zooming, hovering and choosing.
import type { Camera } from "./camera";
import { button } from "./elements";
import { say, type Words } from "./words";

export interface Reactions {
  moved(): void; // the camera changed
  hover(px: number, py: number): void;
  leave(): void;
  choose(px: number, py: number): void;
  enter(): void; // what is marked, or what lies in the middle
  step(by: number): void; // to the next area or the one before
  escape(): void;
  hint(key: "wheel_hint" | "touch_hint"): void;
}

const STEP = 1.5; // zoom by a button or key
const PAN = 60; // pixels by an arrow key
const SLACK = 6; // pixels a press may wander and still be a click

// In an article the page must scroll under the pointer or the finger; a map that has the window to itself may take them.
function inArticle(): boolean {
  return window.self !== window.top || document.documentElement.scrollHeight > window.innerHeight + 2;
}

export function listen(stage: HTMLElement, camera: Camera, react: Reactions): void {
  const down = new Map<number, { x: number; y: number }>();
  let wandered = 0;
  let pinched = false;

  const place = (e: MouseEvent): [number, number] => {
    const box = stage.getBoundingClientRect();
    return [e.clientX - box.left - stage.clientLeft, e.clientY - box.top - stage.clientTop];
  };

  stage.addEventListener("pointerdown", (e) => {
    if (e.button !== 0 || (e.target as Element).closest("button")) return;
    const [x, y] = place(e);
    if (down.size === 0) {
      wandered = 0;
      pinched = false;
    } else pinched = true;
    down.set(e.pointerId, { x, y });
    if (e.pointerType !== "touch" || !inArticle()) stage.setPointerCapture(e.pointerId);
  });
  // One finger is the page's in an article, two are the map's.
  const share = () => (stage.style.touchAction = inArticle() ? "pan-x pan-y" : "none");
  share();
  stage.addEventListener("touchstart", share, { passive: true });
  stage.addEventListener("touchmove", (e) => {
    if (e.touches.length > 1) e.preventDefault();
    else if (inArticle()) react.hint("touch_hint");
  }, { passive: false });

  stage.addEventListener("pointermove", (e) => {
    const [x, y] = place(e);
    const last = down.get(e.pointerId);
    if (!last) {
      if (e.pointerType !== "touch" && !(e.target as Element).closest("button, .ochre-popup")) react.hover(x, y);
      return;
    }
    wandered += Math.hypot(x - last.x, y - last.y);
    if (down.size === 1) {
      if (e.pointerType === "touch" && inArticle()) return void down.set(e.pointerId, { x, y });
      if (wandered > SLACK) {
        camera.panBy(x - last.x, y - last.y);
        react.moved();
      }
    } else if (down.size === 2) {
      const other = [...down.entries()].find(([id]) => id !== e.pointerId)![1];
      const before = Math.hypot(last.x - other.x, last.y - other.y);
      const now = Math.hypot(x - other.x, y - other.y);
      // What was between the fingers stays between them.
      if (before > 0) camera.zoomAt(now / before, (last.x + other.x) / 2, (last.y + other.y) / 2);
      camera.panBy((x - last.x) / 2, (y - last.y) / 2);
      react.moved();
    }
    down.set(e.pointerId, { x, y });
  });

  const release = (e: PointerEvent) => {
    if (!down.delete(e.pointerId) || e.type === "pointercancel") return;
    if (wandered <= SLACK && !pinched) {
      const [x, y] = place(e);
      react.hover(x, y);
      react.choose(x, y);
    }
  };
  stage.addEventListener("pointerup", release);
  stage.addEventListener("pointercancel", release);
  stage.addEventListener("pointerleave", () => down.size === 0 && react.leave());

  stage.addEventListener("wheel", (e) => {
    if ((e.target as Element).closest(".ochre-popup")) return;
    if (inArticle() && !e.ctrlKey && !e.metaKey) return react.hint("wheel_hint");
    e.preventDefault();
    const pixels = e.deltaMode === 1 ? 16 * e.deltaY : e.deltaMode === 2 ? 400 * e.deltaY : e.deltaY;
    const [x, y] = place(e);
    camera.zoomAt(Math.exp(-Math.max(-300, Math.min(300, pixels)) * (e.ctrlKey ? 0.01 : 0.002)), x, y);
    react.moved();
  }, { passive: false });

  stage.addEventListener("keydown", (e) => {
    if (e.altKey || e.ctrlKey || e.metaKey) return;
    const act: Record<string, () => void> = {
      ArrowLeft: () => camera.panBy(PAN, 0), ArrowRight: () => camera.panBy(-PAN, 0),
      ArrowUp: () => camera.panBy(0, PAN), ArrowDown: () => camera.panBy(0, -PAN),
      "+": () => camera.zoomAt(STEP), "=": () => camera.zoomAt(STEP), "-": () => camera.zoomAt(1 / STEP),
      "0": () => camera.reset(), Home: () => camera.reset(),
    };
    if (e.key === "PageDown" || e.key === "PageUp") {
      react.step(e.key === "PageDown" ? 1 : -1);
      e.preventDefault();
      return;
    }
    if (e.key === "Escape") return react.escape();
    if ((e.key === "Enter" || e.key === " ") && e.target === stage) {
      react.enter();
      e.preventDefault();
      return;
    }
    if (!act[e.key]) return;
    act[e.key]();
    e.preventDefault();
    react.moved();
  });
}

export function addButtons(stage: HTMLElement, bar: HTMLElement, camera: Camera, moved: () => void, words: Words): void {
  const actions: [string, string, () => void][] = [
    ["zoom_out", "\u2212", () => camera.zoomAt(1 / STEP)],
    ["whole_map", "\u25a1", () => camera.reset()],
    ["zoom_in", "+", () => camera.zoomAt(STEP)],
  ];
  for (const [key, sign, act] of actions) {
    button(bar, say(words, key), sign, () => {
      act();
      moved();
      stage.focus({ preventScroll: true });
    });
  }
}
