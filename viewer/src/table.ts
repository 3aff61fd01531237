// The table of all values: sorted by a press on a heading, also the form for readers who do not
// see the map, and saved as CSV.
import { button, element } from "./elements";
import { entry } from "./entry";
import { classOf } from "./panels";
import type { AreaLayer } from "./plan";
import { type MapState, panelOf } from "./state";
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
    const by =
      typeof x === "number" && typeof y === "number"
        ? x - y
        : collator.compare(String(x), String(y));
    return (down ? -by : by) || a - b;
  });
}

// Quoted where it must be; a text that a spreadsheet would run as a formula is kept from it.
export function csvField(value: string | number | null): string {
  if (value === null) return "";
  const text =
    typeof value === "string" && /^[=+\-@\t\r]/.test(value) ? `'${value}` : String(value);
  return /[",\r\n]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text;
}

export class TableView {
  private readonly box: HTMLElement;
  private sorted: { column: number; down: boolean } = { column: 0, down: false };
  private before: Element | null = null;

  constructor(
    private readonly state: MapState,
    private readonly layer: number,
    parent: HTMLElement,
    private readonly choose: (item: number) => void,
  ) {
    this.box = element("div", "ochre-table", null, parent);
    this.box.hidden = true;
    this.box.setAttribute("role", "region");
    this.box.setAttribute("aria-label", say(state.payload.words, "table"));
    this.box.addEventListener("keydown", (e) => {
      e.stopPropagation();
      if (e.key === "Escape") this.hide();
    });
    state.on(["panel"], () => !this.box.hidden && this.render());
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
    const { codes } = plan;
    const now = panelOf(plan, state.panel);
    return [
      {
        title: say(words, "name"),
        text: (i) => plan.names?.[i] ?? "",
        order: (i) => plan.names?.[i] ?? null,
      },
      ...(codes
        ? [
            {
              title: say(words, "code"),
              text: (i: number) => entry(codes, i) ?? "",
              order: (i: number) => entry(codes, i),
            },
          ]
        : []),
      ...(now.values ? this.valueColumns() : []),
    ];
  }

  // Areas of one colour have none of these.
  private valueColumns(): Column[] {
    const { plan, state } = this;
    const now = panelOf(plan, state.panel);
    return [
      {
        title: plan.legend ?? plan.name,
        text: (i) => now.values?.[i] ?? now.no_data.label,
        order: (i) => now.numbers?.[i] ?? (now.numbers ? null : (now.values?.[i] ?? null)),
      },
      {
        title: say(state.payload.words, "class"),
        text: (i) => classOf(plan, i, state.panel)?.label ?? "",
        order: (i) => entry(now.class, i) || null,
      },
    ];
  }

  private render(): void {
    const { words, panels, page, title } = this.state.payload;
    this.box.replaceChildren();
    const head = element("div", "ochre-table-head", null, this.box);
    const back = say(words, "back");
    button(head, back, back, () => this.hide());
    const load = say(words, "download");
    const file = `${title.replace(/[^\p{L}\p{N}]+/gu, "-").slice(0, 60)}.csv`;
    if (page.download) button(head, load, load, () => save(file, this.csv()));
    const table = element("table", "", null, element("div", "ochre-table-scroll", null, this.box));
    element("caption", "", [title, panels?.[this.state.panel]].filter(Boolean).join(", "), table);
    const columns = this.columns();
    this.addHead(columns, table);
    this.addRows(columns, table);
  }

  // A press on a heading sorts by it, a second one the other way.
  private addHead(columns: Column[], table: HTMLElement): void {
    const row = element("tr", "", null, element("thead", "", null, table));
    const { sorted } = this;
    columns.forEach((column, k) => {
      const numbers = k === columns.length - 2;
      const cell = element("th", numbers ? "ochre-number" : "", null, row);
      cell.scope = "col";
      const now = sorted.column === k;
      const order = sorted.down ? "descending" : "ascending";
      cell.setAttribute("aria-sort", now ? order : "none");
      const sign = sorted.down ? " \u2193" : " \u2191";
      button(cell, column.title, column.title + (now ? sign : ""), () => {
        this.sorted = { column: k, down: now ? !sorted.down : numbers };
        this.render();
        this.box.querySelectorAll<HTMLElement>("th button")[k]?.focus();
      });
    });
  }

  private addRows(columns: Column[], table: HTMLElement): void {
    const body = element("tbody", "", null, table);
    const count = panelOf(this.plan, this.state.panel).class.length;
    const { column, down } = this.sorted;
    for (const item of sortItems(count, entry(columns, column), down, this.state.payload.locale)) {
      const line = element("tr", "", null, body);
      columns.forEach((one, k) => {
        const text = one.text(item);
        if (k === 0) return this.addName(item, text, line);
        element("td", k === columns.length - 2 ? "ochre-number" : "", text, line);
      });
    }
  }

  private addName(item: number, text: string, line: HTMLElement): void {
    const cell = element("th", "", null, line);
    cell.scope = "row";
    button(cell, text, text, () => {
      this.hide();
      this.choose(item);
    });
  }

  // All panels, numbers as they are.
  private csv(): string {
    const { words, panels } = this.state.payload;
    const { plan } = this;
    const lines = [
      [
        say(words, "code"),
        say(words, "name"),
        ...(panels ? [say(words, "csv_period")] : []),
        plan.legend ?? plan.name,
        say(words, "class"),
      ],
    ];
    (plan.panels ?? [plan]).forEach((now, p) => {
      for (let i = 0; i < now.class.length; i++)
        lines.push([
          plan.codes?.[i] ?? "",
          plan.names?.[i] ?? "",
          ...(panels ? [entry(panels, p)] : []),
          String(now.numbers ? (entry(now.numbers, i) ?? "") : (now.values?.[i] ?? "")),
          classOf(plan, i, plan.panels ? p : this.state.panel)?.label ?? "",
        ]);
    });
    // A negative number is one; only texts are kept from being formulas.
    return (
      "\ufeff" +
      lines
        .map((line) =>
          line
            .map((v) =>
              v !== "" && !Number.isNaN(Number(v))
                ? csvField(v.startsWith("-") ? Number(v) : v.replace(/^\+/, ""))
                : csvField(v),
            )
            .join(","),
        )
        .join("\r\n") +
      "\r\n"
    );
  }
}

function save(name: string, text: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/csv;charset=utf-8" }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
