// The bar for periods or groups: a slider with the name of the one that is shown, steps back and
// forth, and play.
import { button, element } from "./elements";
import { entry } from "./entry";
import { part } from "./frame";
import type { MapState } from "./state";
import { say } from "./words";

const SPEEDS = [0.5, 1, 2, 4];
const SECOND = 1000; // one panel a second at speed 1

export class PeriodBar {
  private readonly slider: HTMLInputElement;
  private readonly name: HTMLElement;
  private readonly progress: HTMLElement;
  private readonly playing: HTMLButtonElement;
  private readonly fast: HTMLButtonElement;
  private timer = 0;
  private speed = 1;

  constructor(
    private readonly state: MapState,
    parent: HTMLElement,
  ) {
    const { words } = state.payload;
    const bar = part("div", "ochre-periods", parent);
    bar.classList.remove("ochre-awaited");
    bar.setAttribute("role", "group");
    bar.setAttribute("aria-label", say(words, "periods"));
    this.playing = button(bar, say(words, "play"), "\u25b6", () => this.toggle());
    button(bar, say(words, "before"), "\u2039", () => this.step(-1));
    this.slider = element("input", "ochre-slider", null, bar);
    this.slider.type = "range";
    this.slider.min = "0";
    this.slider.max = String(this.last());
    this.slider.setAttribute("aria-label", say(words, "period"));
    // Fills while a period is shown.
    this.progress = element("span", "ochre-play-progress", null, bar);
    this.slider.addEventListener("input", () => {
      this.stop();
      state.setPanel(Number(this.slider.value));
    });
    // Arrow keys are the slider's here, not the map's.
    bar.addEventListener("keydown", (e) => e.stopPropagation());
    button(bar, say(words, "after"), "\u203a", () => this.step(1));
    this.name = element("output", "ochre-period-name", null, bar);
    this.fast = button(bar, say(words, "speed"), "1\u00d7", () => {
      this.speed = entry(SPEEDS, (SPEEDS.indexOf(this.speed) + 1) % SPEEDS.length);
      this.nameSpeed();
      if (this.timer) this.run();
    });
    this.nameSpeed();
    state.on(["panel"], () => this.show());
    this.show();
  }

  // What is seen is part of what is heard.
  private nameSpeed(): void {
    const times = `${this.speed}\u00d7`;
    this.fast.textContent = times;
    this.fast.setAttribute("aria-label", `${say(this.state.payload.words, "speed")} ${times}`);
  }

  get isPlaying(): boolean {
    return this.timer !== 0;
  }

  toggle(): void {
    if (this.timer) return this.stop();
    if (this.state.panel === this.last()) this.state.setPanel(0);
    this.run();
  }

  stop(): void {
    window.clearInterval(this.timer);
    this.timer = 0;
    this.sign();
  }

  step(by: number): void {
    this.stop();
    this.state.setPanel(this.state.panel + by);
  }

  private get panels(): string[] {
    return this.state.payload.panels ?? [];
  }

  private last(): number {
    return this.panels.length - 1;
  }

  private run(): void {
    window.clearInterval(this.timer);
    this.timer = window.setInterval(() => {
      // Nothing is played that nobody sees.
      if (document.hidden) return;
      if (this.state.panel === this.last()) return this.stop();
      this.state.setPanel(this.state.panel + 1);
    }, SECOND / this.speed);
    this.sign();
  }

  private sign(): void {
    const words = say(this.state.payload.words, this.timer ? "pause" : "play");
    this.playing.textContent = this.timer ? "\u275a\u275a" : "\u25b6";
    this.progress.style.animationDuration = `${SECOND / this.speed}ms`;
    this.progress.classList.toggle("ochre-playing", this.timer !== 0);
    this.playing.title = words;
    this.playing.setAttribute("aria-label", words);
  }

  private show(): void {
    const name = entry(this.panels, this.state.panel);
    this.slider.value = String(this.state.panel);
    this.slider.setAttribute("aria-valuetext", name);
    this.name.textContent = name;
  }
}
