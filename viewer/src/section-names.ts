// Names and codes of areas that are not loaded: files in the order of their plain forms, of which a
// search reads those that hold what begins with its text.
import { unpack } from "./columns";
import { entry } from "./entry";
import type { SectionNames as About, Sections } from "./plan";
import { plain } from "./search";
import type { Found } from "./section-layer";
import { byScript } from "./section-files";

// Files that one search reads at most: a longer text needs fewer.
const FILES = 2;

interface Part {
  names?: (string | null)[];
  codes?: (string | null)[];
  regions?: (string | null)[];
  rows: number[];
  x: number[];
  y: number[];
  size: number[];
}

export class SectionNames {
  private readonly parts = new Map<number, Promise<Part>>();

  constructor(
    private readonly sections: Sections,
    private readonly about: About,
    private readonly fetch = byScript,
  ) {}

  async find(text: string, most = 8): Promise<Found[]> {
    const wanted = plain(text.trim());
    if (!wanted) return [];
    const parts = await Promise.all(this.filesFor(wanted).map((k) => this.part(k)));
    const found = new Map<number, Found & { exact: boolean }>();
    for (const part of parts)
      for (const [k, item] of part.rows.entries()) {
        const [name, code] = [part.names?.[k] ?? null, part.codes?.[k] ?? null];
        const keys = [name, code].flatMap((one) => (one === null ? [] : [plain(one)]));
        if (!keys.some((key) => key.startsWith(wanted))) continue;
        const spot = { x: entry(part.x, k), y: entry(part.y, k), size: entry(part.size, k) };
        const region = part.regions?.[k] ?? null;
        const { layer } = this.sections;
        const exact = keys.includes(wanted);
        found.set(item, { layer, item, name: name ?? code ?? "", code, region, spot, exact });
      }
    return [...found.values()]
      .sort((a, b) => Number(b.exact) - Number(a.exact) || a.name.localeCompare(b.name))
      .slice(0, most);
  }

  // From the last file that begins before the text, as long as they begin with it.
  private filesFor(wanted: string): number[] {
    const { from } = this.about;
    let [low, high] = [0, from.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (entry(from, middle) < wanted) low = middle + 1;
      else high = middle;
    }
    const files = low > 0 ? [low - 1] : [];
    for (let k = low; k < from.length && files.length < FILES; k++) {
      if (!entry(from, k).startsWith(wanted)) break;
      files.push(k);
    }
    return files;
  }

  private part(k: number): Promise<Part> {
    const known = this.parts.get(k);
    if (known) return known;
    const place = `names-${k + 1}`;
    const file = `${this.sections.folder}/${place}-${entry(this.about.hash, k)}.js`;
    const part = this.fetch({ place, file }).then((text) => {
      const { layers } = unpack(JSON.parse(text)) as { layers: [Part] };
      return layers[0];
    });
    // What does not come is asked for again.
    part.catch(() => this.parts.delete(k));
    this.parts.set(k, part);
    return part;
  }
}
