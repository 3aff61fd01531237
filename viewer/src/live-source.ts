// Where new values come from while the page is open: an address that is asked every so often, or
// messages of the page around. Says of when the values are, and why when no new ones come.
import { element } from "./elements";
import { readValues, takeValues } from "./live";
import type { AreaLayer, LiveSource } from "./plan";
import type { MapState } from "./state";
import { say } from "./words";

const SECOND = 1000;
const PATIENCE = 8 * SECOND;
const MOST = 10e6; // characters of an answer

interface Message {
  ochre?: string;
}

export class LiveValues {
  private readonly line: HTMLElement;
  private readonly layer: AreaLayer;
  private right: Date | null = null;
  private fault: "live_lost" | "live_wrong" | null = null;
  private timer = 0;
  private asking = false;

  constructor(
    private readonly state: MapState,
    private readonly source: LiveSource,
    parent: HTMLElement,
    private readonly announce: (text: string) => void,
    life: AbortSignal,
  ) {
    const layer = state.payload.layers.find((l) => l.kind === "areas" && l.live);
    if (layer?.kind !== "areas") throw new Error("No layer of this map takes new values.");
    this.layer = layer;
    this.line = element("p", "ochre-live", null, parent);
    this.tell();
    window.addEventListener("message", (e: MessageEvent<Message | null>) => this.hear(e), {
      signal: life,
    });
    if (source.address === null) return;
    document.addEventListener("visibilitychange", () => !document.hidden && this.ask(), {
      signal: life,
    });
    this.timer = window.setInterval(() => this.ask(), source.every * SECOND);
    life.addEventListener("abort", () => window.clearInterval(this.timer));
    this.ask();
  }

  // Nothing is asked for while nobody sees the map.
  private ask(): void {
    const { address } = this.source;
    if (address === null || this.asking || document.hidden) return;
    this.asking = true;
    this.fetch(address)
      .then(
        (text) => this.take(() => JSON.parse(text) as unknown),
        () => this.fail("live_lost"),
      )
      .finally(() => (this.asking = false));
  }

  private async fetch(address: string): Promise<string> {
    const answer = await fetch(address, {
      credentials: "omit",
      referrerPolicy: "no-referrer",
      cache: "no-cache",
      signal: AbortSignal.timeout(PATIENCE),
    });
    if (!answer.ok) throw new Error(`Answered ${answer.status}.`);
    const text = await answer.text();
    if (text.length > MOST) throw new RangeError("The answer is too long.");
    return text;
  }

  private hear(e: MessageEvent<Message | null>): void {
    if (e.data?.ochre !== "values" || (e.source !== window.parent && e.source !== window)) return;
    this.take(() => e.data);
  }

  take(read: () => unknown): void {
    try {
      const found = readValues(read());
      const strange = takeValues(this.layer, found, this.state.payload.marks);
      // For the publisher, in the browser's console.
      if (strange.length) console.warn("Ochre: no area has these codes:", strange);
      this.right = found.time ?? new Date();
    } catch (e) {
      console.warn("Ochre:", (e as Error).message);
      return this.fail("live_wrong");
    }
    if (this.fault) this.announce(this.when());
    this.fault = null;
    this.tell();
    this.state.tell("values");
  }

  private fail(fault: "live_lost" | "live_wrong"): void {
    const fresh = this.fault !== fault;
    this.fault = fault;
    this.tell();
    if (fresh) this.announce(this.line.textContent ?? "");
  }

  private tell(): void {
    const { words } = this.state.payload;
    this.line.textContent = [this.when(), this.fault && say(words, this.fault)]
      .filter(Boolean)
      .join(" ");
    this.line.classList.toggle("ochre-live-fault", this.fault !== null);
  }

  // With the day where it is not today.
  private when(): string {
    const { words, locale } = this.state.payload;
    if (!this.right) return say(words, "live_published");
    const today = this.right.toDateString() === new Date().toDateString();
    const form = new Intl.DateTimeFormat(locale, {
      dateStyle: today ? undefined : "medium",
      timeStyle: "medium",
    });
    return say(words, "live_at", form.format(this.right));
  }
}
