// Search for what has a name, in every layer, by name or code, with suggestions. Accents and case
// are ignored where nothing is found as it was typed; beginnings of words come first. Where the
// publisher names a service, the last suggestion looks for places there; nothing is sent before the
// reader takes it.
import { element } from "./elements";
import { named } from "./items";
import type { Plan } from "./plan";
import { findPlaces, type Place } from "./places";
import type { Found } from "./section-layer";
import { say } from "./words";

export const plain = (text: string): string =>
  text
    .normalize("NFD")
    .replace(/[\u0300-\u036f]/g, "")
    .replace(/[\u2018\u2019']/g, "")
    .toLowerCase();

export class Index {
  private readonly entries: Entry[] = [];
  constructor(payload: Plan) {
    payload.layers.forEach((given, at) => {
      if (payload.sections?.layer === at) return;
      const layer = named(given);
      layer?.names?.forEach((name, item) => {
        if (!name) return;
        const code = layer.codes?.[item] ?? null;
        const region = layer.regions?.[item] ?? null;
        this.entries.push({ layer: at, item, name, code, region, key: plain(name) });
      });
    });
  }
  find(text: string, most = 8): Found[] {
    const exact = text.trim();
    const wanted = plain(exact);
    if (!wanted) return [];
    return this.entries
      .map((e) => ({ e, r: rank(e, wanted, exact) }))
      .filter(({ r }) => r < NONE)
      .sort((a, b) => a.r - b.r || (a.e.key < b.e.key ? -1 : 1))
      .slice(0, most)
      .map(({ e }) => e);
  }
}

interface Entry extends Found {
  key: string;
}

const NONE = 9;

// How well an area answers: by its code, the beginning of its name, of a word in it, within it.
// What is written as it was typed comes before what is the same without accents and case.
function rank({ code, key, name }: Entry, wanted: string, exact: string): number {
  if (name === exact || code === exact) return -2;
  if (name.startsWith(exact)) return -1;
  if (code !== null && plain(code) === wanted) return 0;
  if (key.startsWith(wanted)) return 1;
  if (key.split(/[\s-]+/).some((w) => w.startsWith(wanted))) return 2;
  if (key.includes(wanted) || (code !== null && plain(code).startsWith(wanted))) return 3;
  return NONE;
}

interface Row {
  name: string;
  more: string | null;
  className: string;
  take: () => void;
}

let fields = 0;

export class SearchField {
  // Made when somebody begins to type.
  private known: Index | null = null;
  private readonly input: HTMLInputElement;
  private readonly list: HTMLElement;
  private readonly said: HTMLElement;
  private rows: Row[] = [];
  private at = -1;
  private asked = 0;

  constructor(
    private readonly plan: Plan,
    parent: HTMLElement,
    private readonly choose: {
      area: (found: Found) => void;
      place: (place: Place) => void;
      // What is found among areas that are not loaded; null where there are none.
      beyond: (text: string) => Promise<Found[]> | null;
    },
  ) {
    const box = element("div", "ochre-search", null, parent);
    this.input = this.makeInput(box);
    this.list = element("ul", "ochre-suggestions", null, box);
    this.list.id = `ochre-suggestions-${++fields}`;
    this.list.setAttribute("role", "listbox");
    this.list.hidden = true;
    this.said = element("p", "ochre-unseen", null, box);
    this.said.setAttribute("role", "status");
    this.said.hidden = true;
    this.input.setAttribute("aria-controls", this.list.id);
    this.input.addEventListener("input", () => this.suggest());
    this.input.addEventListener("keydown", (e) => this.press(e));
    this.input.addEventListener("blur", () => {
      this.asked++;
      this.close();
    });
  }

  private get index(): Index {
    return (this.known ??= new Index(this.plan));
  }

  private makeInput(box: HTMLElement): HTMLInputElement {
    const { words } = this.plan;
    const input = element("input", "", null, box);
    input.type = "search";
    input.placeholder = say(words, "search_hint");
    input.setAttribute("aria-label", say(words, "search"));
    input.setAttribute("role", "combobox");
    input.setAttribute("aria-expanded", "false");
    input.autocomplete = "off";
    input.spellcheck = false;
    return input;
  }

  private close(): void {
    this.list.hidden = true;
    this.input.setAttribute("aria-expanded", "false");
    this.input.removeAttribute("aria-activedescendant");
  }

  private light(): void {
    this.list.querySelectorAll("[role=option]").forEach((row, i) => {
      row.setAttribute("aria-selected", String(i === this.at));
      if (i === this.at) this.input.setAttribute("aria-activedescendant", row.id);
    });
  }

  private show(rows: Row[], note: string | null): void {
    this.rows = rows;
    this.at = rows.length ? 0 : -1;
    this.list.replaceChildren();
    rows.forEach(({ name, more, className }, i) => {
      const row = element("li", className, null, this.list);
      row.id = `${this.list.id}-${i}`;
      row.setAttribute("role", "option");
      element("span", "ochre-found", name, row);
      if (more) element("span", "ochre-found-code", more, row);
      row.addEventListener("pointerdown", (e) => {
        e.preventDefault();
        this.rows[i]?.take();
      });
    });
    // A list of options holds nothing else that has a role.
    if (note) element("li", "ochre-none", note, this.list).setAttribute("role", "presentation");
    this.said.hidden = false;
    this.said.textContent = note;
    this.list.hidden = !rows.length && !note;
    this.input.setAttribute("aria-expanded", String(!this.list.hidden));
    this.light();
  }

  private taken(name: string, act: () => void): () => void {
    return () => {
      this.input.value = name;
      this.close();
      act();
    };
  }

  private suggest(): void {
    const mine = ++this.asked;
    const text = this.input.value.trim();
    const known = this.index.find(text);
    const beyond = text ? this.choose.beyond(text) : null;
    const { words } = this.plan;
    this.offer(text, known, beyond ? say(words, "seeking") : null);
    const come = (more: Found[], note: string | null) => {
      if (mine === this.asked) this.offer(text, [...known, ...more], note);
    };
    void beyond?.then(
      (more) => come(more, null),
      () => come([], say(words, "sections_lost")),
    );
  }

  private offer(text: string, found: Found[], note: string | null): void {
    const { words, page } = this.plan;
    const rows: Row[] = found.map((f) => ({
      name: f.name,
      more: [f.region, f.code].filter((part) => part !== null).join(" \u00b7 ") || null,
      className: "",
      take: this.taken(f.name, () => this.choose.area(f)),
    }));
    const service = page.places;
    if (service && text.length > 1) {
      const name = say(words, "seek", text);
      const take = () => void this.seek(service, text);
      rows.push({ name, more: null, className: "ochre-seek", take });
    }
    this.show(rows, note ?? (text && !rows.length ? say(words, "no_match") : null));
  }

  // The answer to a question that the reader has left is not shown.
  private async seek(service: string, text: string): Promise<void> {
    const { words, locale } = this.plan;
    const mine = ++this.asked;
    this.show([], say(words, "seeking"));
    const places = await findPlaces(service, text, locale).catch(() => null);
    if (mine !== this.asked) return;
    const rows = (places ?? []).map((p) => ({
      name: p.name,
      more: p.context,
      className: "ochre-place",
      take: this.taken(p.name, () => this.choose.place(p)),
    }));
    const note = rows.length ? null : say(words, places ? "no_match" : "seek_failed");
    this.show(rows, note);
  }

  private press(e: KeyboardEvent): void {
    e.stopPropagation();
    if (e.key === "ArrowDown" || e.key === "ArrowUp") {
      const { length } = this.rows;
      if (length) this.at = (this.at + (e.key === "ArrowDown" ? 1 : length - 1)) % length;
      this.light();
      e.preventDefault();
    } else if (e.key === "Enter") this.rows[this.at]?.take();
    else if (e.key === "Escape") this.close();
  }
}
