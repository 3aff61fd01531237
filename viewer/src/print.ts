// On paper the map is drawn anew as vectors, and its address stands below.
import { element } from "./elements";
import { paperMap, type Pictured } from "./picture";
import { say } from "./words";

export function drawForPaper(on: Pictured, life: AbortSignal): void {
  const { frame, state } = on;
  let made: Element[] = [];
  const begin = () => {
    end();
    const map = paperMap(on);
    frame.stage.append(map);
    made = [map];
    if (!/^https?:/.test(location.protocol)) return;
    const words = `${say(state.payload.words, "address")}: ${location.href}`;
    made.push(element("p", "ochre-paper", words, frame.foot));
  };
  const end = () => {
    for (const part of made) part.remove();
    made = [];
  };
  window.addEventListener("beforeprint", begin, { signal: life });
  window.addEventListener("afterprint", end, { signal: life });
}
