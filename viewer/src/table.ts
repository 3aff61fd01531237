// The table of all values, of one layer at a time: sorted by a press on a heading, also the form
// for readers who do not see the map, and saved as CSV.
import { csvText } from "./csv";
import { button, element } from "./elements";
import { entry } from "./entry";
import { countOf, isIn, named, type NamedLayer, valuesOf } from "./items";
import { classOf } from "./panels";
import { fileName, save } from "./picture";
import { areaPanel, classAt, type MapState } from "./state";
import { say, writeNumber } from "./words";

export interface Column {
  title: string;
  text: (item: number) => string;
  order: (item: number) => number | string | null;
  // Of numbers: they are set to the right and saved as they are.
  values?: (number | null)[] | null | undefined;
}

// Items by a column; those without a value come last either way.
function sortItems(items: number[], column: Column, down: boolean, locale: string): number[] {
  const collator = new Intl.Collator(locale, { numeric: true });
  return [...items].sort((a, b) => {
    const [x, y] = [column.order(a), column.order(b)];
    if (x === null || y === null) return (x === null ? 1 : 0) - (y === null ? 1 : 0) || a - b;
    const by =
      typeof x === "number" && typeof y === "number"
        ? x - y
        : collator.compare(String(x), String(y));
    return (down ? -by : by) || a - b;
  });
}

const MOST_ROWS = 1000;

export class TableView {
  readonly box: HTMLElement;
  private layer: number;
  private sorted: { column: number; down: boolean } = { column: 0, down: false };
  private before: Element | null = null;

  constructor(
    private readonly state: MapState,
    layer: number,
    private readonly parent: HTMLElement,
    private readonly react: {
      // The items of a layer that are known; null for all.
      items: (layer: number) => number[] | null;
      choose: (hit: { layer: number; item: number }) => void;
      toggled: (open: boolean) => void;
    },
  ) {
    this.layer = layer;
    this.box = element("div", "ochre-table", null, parent);
    this.box.hidden = true;
    this.box.setAttribute("role", "region");
    this.box.setAttribute("aria-label", say(state.payload.words, "table"));
    this.box.addEventListener("keydown", (e) => {
      e.stopPropagation();
      if (e.key === "Escape") this.hide();
    });
    state.on(["panel"], () => !this.box.hidden && this.renew());
  }

  // Other values while it is open: the focus stays where it is, and so Escape is heard.
  private renew(): void {
    const parts = () => [...this.box.querySelectorAll<HTMLElement>("button, select")];
    const at = parts().findIndex((part) => part === document.activeElement);
    this.render();
    parts()[at]?.focus();
  }

  toggle(): void {
    if (!this.box.hidden) return this.hide();
    this.before = document.activeElement;
    this.render();
    this.open(true);
    this.box.querySelector("button")?.focus();
  }

  hide(): void {
    this.open(false);
    if (this.before instanceof HTMLElement) this.before.focus();
  }

  // What lies under the table cannot be reached.
  private open(open: boolean): void {
    this.box.hidden = !open;
    for (const part of this.parent.children)
      if (part !== this.box) part.toggleAttribute("inert", open);
    this.parent.classList.toggle("ochre-open-table-body", open);
    this.react.toggled(open);
  }

  private get plan(): NamedLayer {
    return entry(this.state.payload.layers, this.layer) as NamedLayer;
  }

  private columns(panel = this.state.panel): Column[] {
    const { plan } = this;
    const { words } = this.state.payload;
    const texts = (key: string, list: (string | null)[] | null): Column[] =>
      list?.some((v) => v !== null)
        ? [{ title: say(words, key), text: (i) => list[i] ?? "", order: (i) => list[i] ?? null }]
        : [];
    return [
      ...texts("name", plan.names),
      ...texts("code", plan.codes),
      ...texts("region", plan.regions),
      ...this.valueColumns(panel),
      ...this.popupColumns(panel),
    ];
  }

  // Of areas of one colour and of symbols of one size there are none.
  private valueColumns(panel: number): Column[] {
    const { plan, state } = this;
    const { numbers, texts } = valuesOf(plan, panel);
    const lost = areaPanel(plan, panel)?.no_data.label ?? "";
    const columns: Column[] = [];
    const add = (title: string, written: (string | null)[], values: Column["values"]) =>
      columns.push({
        title,
        text: (i) => written[i] ?? lost,
        order: (i) => (values ?? written)[i] ?? null,
        values,
      });
    const square = plan.kind === "areas" ? plan.square : null;
    if (square?.texts)
      square.texts.forEach((written, k) =>
        add(square.titles[k] ?? "", written, square.numbers?.[k]),
      );
    else if (texts) add(plan.legend ?? plan.name, texts, numbers);
    if (classOf(plan, 0, panel) && (texts ?? plan.kind !== "areas"))
      columns.push({
        title: say(state.payload.words, "class"),
        text: (i) => classOf(plan, i, panel)?.label ?? "",
        order: (i) => classAt(plan, i, panel) ?? null,
      });
    return columns;
  }

  // Fields of the popup that say more than the columns before.
  private popupColumns(panel: number): Column[] {
    const { plan } = this;
    const popup = (areaPanel(plan, panel) ?? plan).popup;
    if (!popup) return [];
    const { texts } = valuesOf(plan, panel);
    const items = this.react.items(this.layer);
    const textOf = (list: readonly unknown[] | null) =>
      JSON.stringify(items && list ? items.map((i) => list[i]) : list);
    const known = [plan.names, plan.codes, plan.regions, texts].map(textOf);
    return popup.labels.flatMap((title, f) => {
      const field = entry(popup.fields, f);
      const words = popup.texts?.[f] ?? field;
      if (popup.kinds[f] === "picture" || known.includes(textOf(field))) return [];
      const values = popup.numbers?.[f];
      const text = (i: number) => words[i] ?? "";
      return [{ title, text, order: (i: number) => (values ?? words)[i] ?? null, values }];
    });
  }

  private rows(columns: Column[]): number[] {
    const { column, down } = this.sorted;
    const all =
      this.react.items(this.layer) ?? Array.from({ length: countOf(this.plan) }, (_, i) => i);
    const items = all.filter((i) => isIn(this.plan, i, this.state.panel));
    return sortItems(items, columns[column] ?? entry(columns, 0), down, this.state.payload.locale);
  }

  private render(): void {
    const { words, panels, page, title } = this.state.payload;
    this.box.replaceChildren();
    const head = element("div", "ochre-table-head", null, this.box);
    const back = say(words, "back");
    button(head, back, back, () => this.hide());
    const load = say(words, "download");
    if (page.download)
      button(head, load, load, () =>
        save(`${fileName(title)}.csv`, new Blob([this.csv()], { type: "text/csv;charset=utf-8" })),
      );
    const columns = this.columns();
    const items = this.rows(columns);
    this.addWhole(head, items.length);
    this.addChoice(head);
    const scroll = element("div", "ochre-table-scroll", null, this.box);
    scroll.tabIndex = 0;
    scroll.setAttribute("role", "group");
    scroll.setAttribute("aria-label", say(words, "table"));
    const table = element("table", "", null, scroll);
    const named = [title, panels?.[this.state.panel]].filter(Boolean).join(", ");
    element("caption", "", named, table);
    this.addHead(columns, table);
    this.addRows(columns, items, table);
  }

  // Of a layer in sections: how many of its areas these are, and the file that has all.
  private addWhole(head: HTMLElement, rows: number): void {
    const { marks, page, sections, words } = this.state.payload;
    if (sections?.layer !== this.layer) return;
    const seen = writeNumber(rows, 0, marks);
    element("p", "ochre-table-note", say(words, "in_view", seen, sections.areas), head);
    if (!page.download || !sections.table) return;
    const link = element("a", "ochre-table-all", say(words, "save_all", sections.areas), head);
    link.href = sections.table;
    link.download = "";
  }

  // Which layer is shown, where several have names.
  private addChoice(head: HTMLElement): void {
    const { layers, words } = this.state.payload;
    const known = layers.flatMap((layer, i) => (named(layer) && layer.name ? [i] : []));
    if (known.length < 2) return;
    const choice = element("select", "ochre-table-layer", null, head);
    choice.setAttribute("aria-label", say(words, "layers"));
    for (const i of known) {
      const option = element("option", "", entry(layers, i).name, choice);
      option.value = String(i);
      option.selected = i === this.layer;
    }
    choice.addEventListener("change", () => {
      this.layer = Number(choice.value);
      this.sorted = { column: 0, down: false };
      this.render();
      this.box.querySelector("select")?.focus();
    });
  }

  // A press on a heading sorts by it, a second one the other way.
  private addHead(columns: Column[], table: HTMLElement): void {
    const row = element("tr", "", null, element("thead", "", null, table));
    const { sorted } = this;
    columns.forEach((column, k) => {
      const numbers = Boolean(column.values);
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

  // The first rows at once; of many the others when somebody comes near to the last.
  private addRows(columns: Column[], items: number[], table: HTMLElement): void {
    const body = element("tbody", "", null, table);
    const add = (from: number) => {
      const most = Math.min(items.length, from + MOST_ROWS);
      for (let i = from; i < most; i++) this.addRow(columns, entry(items, i), body);
      if (most === items.length) return;
      const near = new IntersectionObserver((seen) => {
        if (!seen.some((one) => one.isIntersecting)) return;
        near.disconnect();
        add(most);
      });
      near.observe(body.lastElementChild as Element);
    };
    add(0);
  }

  private addRow(columns: Column[], item: number, body: HTMLElement): void {
    const line = element("tr", "", null, body);
    columns.forEach((one, k) => {
      const text = one.text(item);
      if (k === 0) return this.addName(item, text, line);
      element("td", one.values ? "ochre-number" : "", text, line);
    });
  }

  private addName(item: number, text: string, line: HTMLElement): void {
    const cell = element("th", "", null, line);
    cell.scope = "row";
    button(cell, text, text, () => {
      this.hide();
      this.react.choose({ layer: this.layer, item });
    });
  }

  // As the table is sorted; of all panels, numbers as they are.
  private csv(): string {
    const { words, panels, marks } = this.state.payload;
    const { plan } = this;
    const rows = this.rows(this.columns());
    const all = panels && plan.kind === "areas" && plan.panels ? panels : null;
    const head = this.columns().map((c) => c.title);
    const lines: (string | number | null)[][] = [all ? [say(words, "csv_period"), ...head] : head];
    for (const [p, period] of (all ?? [""]).entries()) {
      const columns = this.columns(all ? p : this.state.panel);
      for (const i of rows) {
        const fields = columns.map((c) => (c.values ? (c.values[i] ?? null) : c.text(i)));
        lines.push(all ? [period, ...fields] : fields);
      }
    }
    return csvText(lines, marks.decimal);
  }
}
