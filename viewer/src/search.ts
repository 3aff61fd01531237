// Search for areas by name or code, with suggestions. Accents and case are ignored; beginnings of words come first. Where the publisher names
// a service, the last suggestion looks for places there; nothing is sent before the reader takes it.
import { element } from "./elements";
import type { Payload } from "./payload";
import { findPlaces, type Place } from "./places";
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

interface Row {
  name: string;
  more: string | null;
  className: string;
  take: () => void;
}

let fields = 0;

export function searchField(payload: Payload, parent: HTMLElement, choose: (found: Found) => void, choosePlace: (place: Place) => void): void {
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
  let rows: Row[] = [];
  let at = -1;
  let asked = 0;
  const close = () => {
    list.hidden = true;
    input.setAttribute("aria-expanded", "false");
    input.removeAttribute("aria-activedescendant");
  };
  const take = (i: number) => rows[i]?.take();
  const light = () => [...list.querySelectorAll("[role=option]")].forEach((row, i) => {
    row.setAttribute("aria-selected", String(i === at));
    if (i === at) input.setAttribute("aria-activedescendant", row.id);
  });
  const show = (next: Row[], note: string | null) => {
    rows = next;
    at = rows.length ? 0 : -1;
    list.replaceChildren();
    rows.forEach(({ name, more, className }, i) => {
      const row = element("li", className, null, list);
      row.id = `${list.id}-${i}`;
      row.setAttribute("role", "option");
      element("span", "ochre-found", name, row);
      if (more) element("span", "ochre-found-code", more, row);
      row.addEventListener("pointerdown", (e) => {
        e.preventDefault();
        take(i);
      });
    });
    if (note) element("li", "ochre-none", note, list).setAttribute("role", "status");
    list.hidden = !rows.length && !note;
    input.setAttribute("aria-expanded", String(!list.hidden));
    light();
  };
  const done = (name: string, act: () => void) => () => {
    input.value = name;
    close();
    act();
  };
  // The answer to a question that the reader has left is not shown.
  const seek = async (service: string, text: string) => {
    const mine = ++asked;
    show([], say(payload.words, "seeking"));
    const places = await findPlaces(service, text, payload.locale).catch(() => null);
    if (mine !== asked) return;
    const note = places ? (places.length ? null : say(payload.words, "no_match")) : say(payload.words, "seek_failed");
    show((places ?? []).map((p) => ({ name: p.name, more: p.context, className: "ochre-place", take: done(p.name, () => choosePlace(p)) })), note);
  };
  input.addEventListener("input", () => {
    asked++;
    const text = input.value.trim();
    const found: Row[] = index.find(text).map((f) => ({ name: f.name, more: f.code, className: "", take: done(f.name, () => choose(f)) }));
    const service = payload.page.places;
    const more: Row[] = service && text.length > 1 ? [{ name: say(payload.words, "seek", text), more: null, className: "ochre-seek", take: () => void seek(service, text) }] : [];
    show([...found, ...more], text && !found.length && !more.length ? say(payload.words, "no_match") : null);
  });
  input.addEventListener("keydown", (e) => {
    e.stopPropagation();
    if (e.key === "ArrowDown" || e.key === "ArrowUp") {
      if (rows.length) at = (at + (e.key === "ArrowDown" ? 1 : rows.length - 1)) % rows.length;
      light();
      e.preventDefault();
    } else if (e.key === "Enter") take(at);
    else if (e.key === "Escape") close();
  });
  input.addEventListener("blur", () => {
    asked++;
    close();
  });
}
