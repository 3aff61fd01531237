// Small help for making elements. Text is only ever set as text, never as markup.

export function element<K extends keyof HTMLElementTagNameMap>(
  tag: K,
  className: string,
  text?: string | null,
  parent?: Element,
): HTMLElementTagNameMap[K] {
  const out = document.createElement(tag);
  out.className = className;
  if (text) out.textContent = text;
  parent?.append(out);
  return out;
}

export function svg<K extends keyof SVGElementTagNameMap>(
  tag: K,
  attributes: Record<string, string | number>,
  parent?: Element,
  text?: string,
): SVGElementTagNameMap[K] {
  const out = document.createElementNS("http://www.w3.org/2000/svg", tag);
  for (const [name, value] of Object.entries(attributes)) out.setAttribute(name, String(value));
  if (text) out.textContent = text;
  parent?.append(out);
  return out;
}

// `hatch` is the colour of its lines, where areas of this class carry a hatch.
export function swatch(colour: string, parent: Element, hatch?: string | null): HTMLElement {
  const out = element("span", "ochre-swatch", null, parent);
  out.style.backgroundColor = colour;
  if (hatch) {
    const line = `${hatch} 0 1.2px, transparent 1.2px 5px`;
    out.style.backgroundImage = `repeating-linear-gradient(135deg, ${line})`;
    out.style.outline = `1px solid ${hatch}`;
  }
  return out;
}

// White text is read better than black below this lightness.
export function isDark(colour: string): boolean {
  const light = (i: number) => (parseInt(colour.slice(i, i + 2), 16) / 255) ** 2.2;
  return 0.2126 * light(1) + 0.7152 * light(3) + 0.0722 * light(5) < 0.18;
}

// A button that says in words what its sign means.
export function button(
  parent: Element,
  words: string,
  sign: string,
  act: () => void,
  className = "",
): HTMLButtonElement {
  const out = element("button", className, sign, parent);
  out.type = "button";
  out.title = words;
  out.setAttribute("aria-label", words);
  out.addEventListener("click", act);
  return out;
}

// A canvas to draw on; every browser that runs this has one.
export function canvasContext(canvas: HTMLCanvasElement): CanvasRenderingContext2D {
  const context = canvas.getContext("2d");
  if (!context) throw new Error("This browser draws on no canvas.");
  return context;
}
