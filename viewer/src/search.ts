// Search for areas by name or code, with suggestions. Accents and case are ignored; beginnings of words come first.
import { element } from "./elements";
import type { Payload } from "./payload";
import { say } from "./words";

export interface Found {
  layer: number;
  item: number;
  name: string;
  code: string | null;
}

export const plain = (text: string): string => text.normalize("NFD").replace(/[\u0300-\u036f]/g, "").replace(/[\u2018\u2019']/g, "").toLowerCase();

export class Index {
  private readonly entries: (Found & { key: string })[] = [];
  constructor(payload: Payload) {
    payload.layers.forEach((layer, at) => {
      if (layer.kind !== "areas" || !layer.names) return;
      layer.names.forEach((name, item) => name && this.entries.push({ layer: at, item, name, code: layer.codes?.[item] ?? null, key: plain(name) }));
    });
  }
  find(text: string, most = 8): Found[] {
    const wanted = plain(text.trim());
    if (!wanted) return [];
    const rank = (e: Found & { key: string }) =>
      e.code !== null && plain(e.code) === wanted ? 0 : e.key.startsWith(wanted) ? 1 : e.key.split(/[\s-]+/).some((w) => w.startsWith(wanted)) ? 2 : e.key.includes(wanted) || (e.code !== null && plain(e.code).startsWith(wanted)) ? 3 : 9;
    return this.entries.map((e) => ({ e, r: rank(e) })).filter(({ r }) => r < 9).sort((a, b) => a.r - b.r || (a.e.key < b.e.key ? -1 : 1)).slice(0, most).map(({ e }) => e);
  }
}

let fields = 0;

export function searchField(payload: Payload, parent: HTMLElement, choose: (found: Found) => void): void {
  const index = new Index(payload);
  const box = element("div", "ochre-search", null, parent);
  const input = element("input", "", null, box);
  input.type = "search";
  input.placeholder = say(payload.words, "search_hint");
  input.setAttribute("aria-label", say(payload.words, "search"));
  input.setAttribute("role", "combobox");
  input.setAttribute("aria-expanded", "false");
  input.autocomplete = "off";
  input.spellcheck = false;
  const list = element("ul", "ochre-suggestions", null, box);
  list.id = `ochre-suggestions-${++fields}`;
  list.setAttribute("role", "listbox");
  list.hidden = true;
  input.setAttribute("aria-controls", list.id);
  let found: Found[] = [];
  let at = -1;
  const close = () => {
    list.hidden = true;
    input.setAttribute("aria-expanded", "false");
    input.removeAttribute("aria-activedescendant");
  };
  const take = (i: number) => {
    if (!found[i]) return;
    input.value = found[i].name;
    close();
    choose(found[i]);
  };
  const light = () => [...list.children].forEach((row, i) => {
    row.setAttribute("aria-selected", String(i === at));
    if (i === at) input.setAttribute("aria-activedescendant", row.id);
  });
  input.addEventListener("input", () => {
    found = index.find(input.value);
    at = found.length ? 0 : -1;
    list.replaceChildren();
    found.forEach((f, i) => {
      const row = element("li", "", null, list);
      row.id = `${list.id}-${i}`;
      row.setAttribute("role", "option");
      element("span", "ochre-found", f.name, row);
      if (f.code) element("span", "ochre-found-code", f.code, row);
      row.addEventListener("pointerdown", (e) => {
        e.preventDefault();
        take(i);
      });
    });
    if (!found.length && input.value.trim()) element("li", "ochre-none", say(payload.words, "no_match"), list).setAttribute("role", "status");
    list.hidden = !input.value.trim();
    input.setAttribute("aria-expanded", String(!list.hidden));
    light();
  });
  input.addEventListener("keydown", (e) => {
    e.stopPropagation();
    if (e.key === "ArrowDown" || e.key === "ArrowUp") {
      if (found.length) at = (at + (e.key === "ArrowDown" ? 1 : found.length - 1)) % found.length;
      light();
      e.preventDefault();
    } else if (e.key === "Enter") take(at);
    else if (e.key === "Escape") close();
  });
  input.addEventListener("blur", close);
}
