// Small help for making elements. Text is only ever set as text, never as markup.

export function element<K extends keyof HTMLElementTagNameMap>(
  tag: K, className: string, text?: string | null, parent?: Element,
): HTMLElementTagNameMap[K] {
  const out = document.createElement(tag);
  out.className = className;
  if (text) out.textContent = text;
  parent?.append(out);
  return out;
}

export function svg<K extends keyof SVGElementTagNameMap>(
  tag: K, attributes: Record<string, string | number>, parent?: Element, text?: string,
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
    out.style.backgroundImage = `repeating-linear-gradient(135deg, ${hatch} 0 1.2px, transparent 1.2px 5px)`;
    out.style.outline = `1px solid ${hatch}`;
  }
  return out;
}
