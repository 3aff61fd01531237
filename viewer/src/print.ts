// On paper the map is drawn anew as vectors, and its address stands below.
import { element } from "./elements";
import { paperMap, type Pictured } from "./picture";
import { say } from "./words";

export function drawForPaper(on: Pictured, life: AbortSignal): void {
  const { frame, state } = on;
  let made: Element[] = [];
  const begin = () => {
    end();
    const { words } = state.payload;
    const { drawing, bare } = paperMap(on);
    frame.stage.append(drawing);
    made = [drawing];
    frame.stage.classList.toggle("ochre-over-canvas", bare);
    frame.stage.style.setProperty("--seen", String(on.camera.width / on.camera.height));
    if (!/^https?:/.test(location.protocol)) return;
    const address = `${say(words, "address")}: ${location.href}`;
    made.push(element("p", "ochre-paper", address, frame.foot));
  };
  const end = () => {
    for (const part of made) part.remove();
    made = [];
  };
  window.addEventListener("beforeprint", begin, { signal: life });
  window.addEventListener("afterprint", end, { signal: life });
}
