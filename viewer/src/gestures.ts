// From pointer, wheel and keys to moving, zooming, hovering and choosing.
import type { Camera } from "./camera";
import { button } from "./elements";
import { say, type Words } from "./words";
import { later } from "./work";

export interface Reactions {
  moved(): void; // the camera changed
  hover(px: number, py: number): void;
  leave(): void;
  choose(px: number, py: number): void;
  enter(): void; // what is marked, or what lies in the middle
  step(by: number): void; // to the next area or the one before
  escape(): void;
  hint(key: "wheel_hint" | "touch_hint"): void;
  help(): void;
}

const STEP = 1.5; // zoom by a button or key
const PAN = 60; // pixels by an arrow key
const SLACK = 6; // pixels a press may wander and still be a click

// In an article, and beside another map in a strip, what is around must scroll under the pointer or
// the finger; a map that has the window to itself may take them.
function inArticle(stage: HTMLElement): boolean {
  const strip = stage.closest(".ochre-strip-of-maps");
  return (
    window.self !== window.top ||
    document.documentElement.scrollHeight > window.innerHeight + 2 ||
    (strip !== null && strip.scrollWidth > strip.clientWidth + 2)
  );
}

export function listen(stage: HTMLElement, camera: Camera, react: Reactions): void {
  new Fingers(stage, camera, react);
  listenToWheel(stage, camera, react);
  stage.addEventListener("keydown", (e) => press(e, stage, camera, react));
  // From wherever on the page the focus is.
  const escape = (e: KeyboardEvent) => e.key === "Escape" && react.escape();
  stage.closest<HTMLElement>(".ochre-page")?.addEventListener("keydown", escape);
}

// Where an event lies on the stage, in pixels.
function place(stage: HTMLElement, e: MouseEvent): [number, number] {
  const box = stage.getBoundingClientRect();
  return [e.clientX - box.left - stage.clientLeft, e.clientY - box.top - stage.clientTop];
}

// Pointers that are down: one moves the map, two zoom it, one that does not move chooses.
class Fingers {
  private readonly down = new Map<number, { x: number; y: number }>();
  private wandered = 0;
  private pinched = false;

  constructor(
    private readonly stage: HTMLElement,
    private readonly camera: Camera,
    private readonly react: Reactions,
  ) {
    stage.addEventListener("pointerdown", (e) => this.begin(e));
    stage.addEventListener("pointermove", (e) => this.move(e));
    stage.addEventListener("pointerup", (e) => this.end(e));
    stage.addEventListener("pointercancel", (e) => this.end(e));
    stage.addEventListener("pointerleave", () => this.down.size === 0 && react.leave());
    // One finger is the page's in an article, two are the map's.
    const share = () => (stage.style.touchAction = inArticle(stage) ? "pan-x pan-y" : "none");
    later(share);
    stage.addEventListener("touchstart", share, { passive: true });
    const touch = (e: TouchEvent) => {
      if (!camera.zooming) return;
      if (e.touches.length > 1) e.preventDefault();
      else if (inArticle(stage)) react.hint("touch_hint");
    };
    stage.addEventListener("touchmove", touch, { passive: false });
  }

  private begin(e: PointerEvent): void {
    if (e.button !== 0 || (e.target as Element).closest("button")) return;
    const [x, y] = place(this.stage, e);
    if (this.down.size === 0) {
      this.wandered = 0;
      this.pinched = false;
    } else this.pinched = true;
    this.down.set(e.pointerId, { x, y });
    if (e.pointerType !== "touch" || !inArticle(this.stage))
      this.stage.setPointerCapture(e.pointerId);
  }

  private move(e: PointerEvent): void {
    const [x, y] = place(this.stage, e);
    const last = this.down.get(e.pointerId);
    const touch = e.pointerType === "touch";
    if (!last) {
      const over = (e.target as Element).closest("button, .ochre-popup");
      if (!touch && !over) this.react.hover(x, y);
      return;
    }
    this.wandered += Math.hypot(x - last.x, y - last.y);
    const others = [...this.down].filter(([id]) => id !== e.pointerId).map(([, at]) => at);
    this.down.set(e.pointerId, { x, y });
    if (others.length === 1 && others[0]) this.pinch(last, others[0], x, y);
    else if (!others.length && this.wandered > SLACK && !(touch && inArticle(this.stage))) {
      this.camera.panBy(x - last.x, y - last.y);
      this.react.moved();
    }
  }

  // What was between the fingers stays between them.
  private pinch(last: Point, other: Point, x: number, y: number): void {
    const before = Math.hypot(last.x - other.x, last.y - other.y);
    const now = Math.hypot(x - other.x, y - other.y);
    const middle: [number, number] = [(last.x + other.x) / 2, (last.y + other.y) / 2];
    if (before > 0) this.camera.zoomAt(now / before, ...middle);
    this.camera.panBy((x - last.x) / 2, (y - last.y) / 2);
    this.react.moved();
  }

  private end(e: PointerEvent): void {
    if (!this.down.delete(e.pointerId) || e.type === "pointercancel") return;
    if (this.wandered > SLACK || this.pinched) return;
    const [x, y] = place(this.stage, e);
    this.react.hover(x, y);
    this.react.choose(x, y);
    if (e.pointerType === "touch") this.react.leave();
  }
}

interface Point {
  x: number;
  y: number;
}

// Pixels of a turn, which some report in lines (1) or pages (2).
function turned(e: WheelEvent): number {
  const unit = [1, 16, 400][e.deltaMode] ?? 1;
  return Math.max(-300, Math.min(300, unit * e.deltaY));
}

function listenToWheel(stage: HTMLElement, camera: Camera, react: Reactions): void {
  const turn = (e: WheelEvent) => {
    if (!camera.zooming || (e.target as Element).closest(".ochre-popup")) return;
    if (inArticle(stage) && !e.ctrlKey && !e.metaKey) return react.hint("wheel_hint");
    e.preventDefault();
    camera.zoomAt(Math.exp(-turned(e) * (e.ctrlKey ? 0.01 : 0.002)), ...place(stage, e));
    react.moved();
  };
  stage.addEventListener("wheel", turn, { passive: false });
}

const KEYS: Record<string, (camera: Camera) => void> = {
  ArrowLeft: (camera) => camera.panBy(PAN, 0),
  ArrowRight: (camera) => camera.panBy(-PAN, 0),
  ArrowUp: (camera) => camera.panBy(0, PAN),
  ArrowDown: (camera) => camera.panBy(0, -PAN),
  "+": (camera) => camera.zoomAt(STEP),
  "=": (camera) => camera.zoomAt(STEP),
  "-": (camera) => camera.zoomAt(1 / STEP),
  "0": (camera) => camera.reset(),
  Home: (camera) => camera.reset(),
};

function press(e: KeyboardEvent, stage: HTMLElement, camera: Camera, react: Reactions): void {
  if (e.altKey || e.ctrlKey || e.metaKey) return;
  const act = KEYS[e.key];
  if (e.key === "PageDown" || e.key === "PageUp") react.step(e.key === "PageDown" ? 1 : -1);
  else if (e.key === "?") react.help();
  else if ((e.key === "Enter" || e.key === " ") && e.target === stage) react.enter();
  else if (act) {
    act(camera);
    react.moved();
  } else return;
  e.preventDefault();
}

export function addButtons(
  stage: HTMLElement,
  bar: HTMLElement,
  camera: Camera,
  moved: () => void,
  words: Words,
): void {
  if (!camera.zooming) return;
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
