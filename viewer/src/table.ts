// The table of all values: sorted by a press on a heading, also the form for readers who do not see the map, and saved as CSV.
import { button, element } from "./elements";
import { classOf } from "./panels";
import type { AreaLayer } from "./payload";
import { areaPanel, type MapState } from "./state";
import { say } from "./words";

export interface Column {
  title: string;
  text: (item: number) => string;
  order: (item: number) => number | string | null;
}

// Items by a column; those without a value come last either way.
export function sortItems(count: number, column: Column, down: boolean, locale: string): number[] {
  const collator = new Intl.Collator(locale, { numeric: true });
  return Array.from({ length: count }, (_, i) => i).sort((a, b) => {
    const [x, y] = [column.order(a), column.order(b)];
    if (x === null || y === null) return (x === null ? 1 : 0) - (y === null ? 1 : 0) || a - b;
    const by = typeof x === "number" && typeof y === "number" ? x - y : collator.compare(String(x), String(y));
    return (down ? -by : by) || a - b;
  });
}

// Quoted where it must be; a text that a spreadsheet would run as a formula is kept from it.
export function csvField(value: string | number | null): string {
  if (value === null) return "";
  const text = typeof value === "string" && /^[=+\-@\t\r]/.test(value) ? `'${value}` : String(value);
  return /[",\r\n]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text;
}

export class TableView {
  private readonly box: HTMLElement;
  private sorted: { column: number; down: boolean } = { column: 0, down: false };
  private before: Element | null = null;

  constructor(private readonly state: MapState, private readonly layer: number, parent: HTMLElement, private readonly choose: (item: number) => void) {
    this.box = element("div", "ochre-table", null, parent);
    this.box.hidden = true;
    this.box.setAttribute("role", "region");
    this.box.setAttribute("aria-label", say(state.payload.words, "table"));
    this.box.addEventListener("keydown", (e) => {
      e.stopPropagation();
      if (e.key === "Escape") this.hide();
    });
    state.onChange((what) => what === "panel" && !this.box.hidden && this.render());
  }

  toggle(): void {
    if (!this.box.hidden) return this.hide();
    this.before = document.activeElement;
    this.render();
    this.box.hidden = false;
    this.box.querySelector("button")?.focus();
  }

  hide(): void {
    this.box.hidden = true;
    if (this.before instanceof HTMLElement) this.before.focus();
  }

  private get plan(): AreaLayer {
    return this.state.payload.layers[this.layer] as AreaLayer;
  }

  private columns(): Column[] {
    const { plan, state } = this;
    const { words } = state.payload;
    const now = areaPanel(plan, state.panel)!;
    return [
      { title: say(words, "name"), text: (i) => plan.names?.[i] ?? "", order: (i) => plan.names?.[i] ?? null },
      ...(plan.codes ? [{ title: say(words, "code"), text: (i: number) => plan.codes![i] ?? "", order: (i: number) => plan.codes![i] }] : []),
      { title: plan.legend ?? plan.name, text: (i) => now.values?.[i] ?? now.no_data.label, order: (i) => now.numbers?.[i] ?? (now.numbers ? null : (now.values?.[i] ?? null)) },
      { title: say(words, "klass"), text: (i) => classOf(plan, i, state.panel)!.label, order: (i) => now.class[i] || null },
    ];
  }

  private render(): void {
    const { words, locale, panels, page, title } = this.state.payload;
    this.box.replaceChildren();
    const head = element("div", "ochre-table-head", null, this.box);
    button(head, say(words, "back"), say(words, "back"), () => this.hide());
    if (page.download) button(head, say(words, "download"), say(words, "download"), () => save(`${title.replace(/[^\p{L}\p{N}]+/gu, "-").slice(0, 60)}.csv`, this.csv()));
    const table = element("table", "", null, element("div", "ochre-table-scroll", null, this.box));
    element("caption", "", [title, panels?.[this.state.panel]].filter(Boolean).join(", "), table);
    const columns = this.columns();
    const row = element("tr", "", null, element("thead", "", null, table));
    columns.forEach((column, k) => {
      const cell = element("th", k === columns.length - 2 ? "ochre-number" : "", null, row);
      cell.scope = "col";
      const now = this.sorted.column === k;
      cell.setAttribute("aria-sort", now ? (this.sorted.down ? "descending" : "ascending") : "none");
      button(cell, column.title, column.title + (now ? (this.sorted.down ? " \u2193" : " \u2191") : ""), () => {
        this.sorted = { column: k, down: now ? !this.sorted.down : k === columns.length - 2 };
        this.render();
        (this.box.querySelectorAll("th button")[k] as HTMLElement).focus();
      });
    });
    const body = element("tbody", "", null, table);
    for (const item of sortItems(areaPanel(this.plan, this.state.panel)!.class.length, columns[this.sorted.column], this.sorted.down, locale)) {
      const line = element("tr", "", null, body);
      columns.forEach((column, k) => {
        const cell = element(k === 0 ? "th" : "td", k === columns.length - 2 ? "ochre-number" : "", null, line);
        if (k > 0) return void (cell.textContent = column.text(item));
        (cell as HTMLTableCellElement).scope = "row";
        button(cell, column.text(item), column.text(item), () => {
          this.hide();
          this.choose(item);
        });
      });
    }
  }

  // All panels, numbers as they are.
  private csv(): string {
    const { words, panels } = this.state.payload;
    const { plan } = this;
    const lines = [[say(words, "code"), say(words, "name"), ...(panels ? [say(words, "csv_period")] : []), plan.legend ?? plan.name, say(words, "klass")]];
    (plan.panels ?? [plan]).forEach((now, p) => {
      for (let i = 0; i < now.class.length; i++) lines.push([plan.codes?.[i] ?? "", plan.names?.[i] ?? "", ...(panels ? [panels[p]] : []), String(now.numbers ? (now.numbers[i] ?? "") : (now.values?.[i] ?? "")), classOf(plan, i, plan.panels ? p : this.state.panel)!.label]);
    });
    // A negative number is one; only texts are kept from being formulas.
    return "\ufeff" + lines.map((line) => line.map((v) => (v !== "" && !Number.isNaN(Number(v)) ? csvField(v.startsWith("-") ? Number(v) : v.replace(/^\+/, "")) : csvField(v))).join(",")).join("\r\n") + "\r\n";
  }
}

function save(name: string, text: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/csv;charset=utf-8" }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
