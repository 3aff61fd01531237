// What lies under the data: tiles of a server or a placed picture, on a canvas of its own.
// Nothing is asked for but what the view needs of the backdrop that is shown; what cannot be had
// is left out, and said when nothing of it comes.
import type { Camera } from "./camera";
import { element, canvasContext } from "./elements";
import { entry } from "./entry";
import type { Backdrop, PictureBackdrop, TileBackdrop, TileLevel } from "./plan";
import { say, type Words } from "./words";

interface Tile {
  image: HTMLImageElement;
  state: "waiting" | "there" | "lost";
  level: number;
  column: number;
  row: number;
  since: number;
}

const AT_ONCE = 12; // requests under way
const KEPT = 128; // tiles in memory
const MOST = 400; // tiles in one view
const AGAIN = 30000; // milliseconds until a lost tile is asked for again

// The level whose pixels are nearest to the screen's.
export function levelFor(levels: TileLevel[], unit: number): number {
  let best = 0;
  const far = (l: TileLevel) => Math.abs(Math.log2(l.metres / unit));
  levels.forEach((l, i) => far(l) < far(entry(levels, best)) - 1e-9 && (best = i));
  return best;
}

export interface Cells {
  columns: [number, number];
  rows: [number, number];
}

// Columns and rows of a level within a box of the map.
export function cellsIn(
  level: TileLevel,
  [x0, y0, x1, y1]: readonly [number, number, number, number],
): Cells {
  const wide = level.metres * level.width;
  const high = level.metres * level.height;
  const clip = (v: number, n: number) => Math.max(0, Math.min(n - 1, v));
  const first = Math.floor((x0 - level.x) / wide);
  const last = Math.ceil((x1 - level.x) / wide) - 1;
  const top = Math.floor((level.y - y1) / high);
  const bottom = Math.ceil((level.y - y0) / high) - 1;
  const none: Cells = { columns: [0, -1], rows: [0, -1] };
  if (bottom < 0 || top >= level.rows) return none;
  if (!level.around && (last < 0 || first >= level.columns)) return none;
  return {
    columns: level.around ? [first, last] : [clip(first, level.columns), clip(last, level.columns)],
    rows: [clip(top, level.rows), clip(bottom, level.rows)],
  };
}

export function tileAddress(
  backdrop: TileBackdrop,
  level: TileLevel,
  column: number,
  row: number,
): string {
  const x = ((column % level.columns) + level.columns) % level.columns;
  const y = level.up ? level.rows - 1 - row : row;
  const fill: Record<string, string> = {
    z: encodeURIComponent(level.id),
    x: String(x),
    y: String(y),
  };
  return backdrop.url.replace(/\{([zxy])\}/g, (_, key: string) => entry(fill, key));
}

// One canvas under the data: what `pick()` finds to be shown, as solid as it says.
export interface Shown {
  backdrop: Backdrop;
  opacity: number;
}

export class BackdropView {
  private readonly canvas: HTMLCanvasElement;
  private readonly credit: HTMLElement;
  private readonly trouble: HTMLElement;
  private tiles = new Map<string, Tile>();
  private picture: HTMLImageElement | null = null;
  private lastLevel = -1;
  private timer = 0;
  private last: Backdrop | null = null;

  constructor(
    stage: HTMLElement,
    below: HTMLElement,
    private readonly camera: Camera,
    private readonly words: Words,
    private readonly shown: () => Shown | null,
  ) {
    this.canvas = element("canvas", "ochre-canvas ochre-backdrop");
    stage.prepend(this.canvas);
    const line = element("p", "ochre-credit", null, below);
    this.credit = element("span", "", null, line);
    this.trouble = element("span", "ochre-trouble", null, line);
    this.trouble.setAttribute("role", "status");
    this.pick();
  }

  private get now(): Backdrop | null {
    return this.shown()?.backdrop ?? null;
  }

  dispose(): void {
    window.clearTimeout(this.timer);
    for (const tile of this.tiles.values()) giveUp(tile);
  }

  // Another backdrop, or as solid as it is now: what was asked for an old one is given up.
  pick(): void {
    const { now } = this;
    this.canvas.style.opacity = String(this.shown()?.opacity ?? 1);
    if (now && now === this.last) return;
    this.last = now;
    window.clearTimeout(this.timer);
    for (const tile of this.tiles.values()) giveUp(tile);
    this.tiles = new Map();
    this.picture = null;
    this.lastLevel = -1;
    this.trouble.textContent = "";
    this.credit.replaceChildren();
    if (!now) return;
    if (now.kind !== "plain") {
      const words = now.attribution;
      if (now.link && /^https?:/i.test(now.link)) {
        const link = element("a", "", words, this.credit);
        link.href = now.link;
        link.target = "_blank";
        link.rel = "noopener noreferrer";
      } else this.credit.textContent = words;
    }
    if (now.kind === "picture") this.load(now);
  }

  private load(now: PictureBackdrop): void {
    const image = new Image();
    image.onload = () => now === this.now && this.draw();
    image.onerror = () => now === this.now && this.say(true);
    image.src = now.address;
    this.picture = image;
  }

  private say(lost: boolean): void {
    const text = lost ? say(this.words, "backdrop_lost") : "";
    if (this.trouble.textContent !== text) this.trouble.textContent = text;
  }

  draw(): void {
    // Out of sight nothing is asked for.
    if (this.canvas.clientWidth === 0) return;
    const dense = window.devicePixelRatio || 1;
    const [width, height] = [
      Math.round(this.camera.width * dense),
      Math.round(this.camera.height * dense),
    ];
    if (this.canvas.width !== width || this.canvas.height !== height)
      [this.canvas.width, this.canvas.height] = [width, height];
    const c = canvasContext(this.canvas);
    c.setTransform(1, 0, 0, 1, 0, 0);
    c.clearRect(0, 0, width, height);
    const { now } = this;
    if (!now) return;
    if (now.kind === "tiles") this.drawTiles(c, now, dense);
    if (now.kind === "picture" && this.picture?.complete && this.picture.naturalWidth > 0)
      drawPicture(c, now, this.picture, this.camera, dense);
  }

  private drawTiles(c: CanvasRenderingContext2D, now: TileBackdrop, dense: number): void {
    const { camera } = this;
    const [x0, y1] = camera.toMap(0, 0);
    const [x1, y0] = camera.toMap(camera.width, camera.height);
    let at = levelFor(now.levels, 1 / camera.scale);
    let cells = cellsIn(entry(now.levels, at), [x0, y0, x1, y1]);
    const many = (v: Cells) => (v.columns[1] - v.columns[0] + 1) * (v.rows[1] - v.rows[0] + 1);
    while (many(cells) > MOST && at > 0) cells = cellsIn(entry(now.levels, --at), [x0, y0, x1, y1]);
    if (many(cells) > MOST) return;
    const wanted: { key: string; column: number; row: number; far: number }[] = [];
    const middle = [(cells.columns[0] + cells.columns[1]) / 2, (cells.rows[0] + cells.rows[1]) / 2];
    for (let row = cells.rows[0]; row <= cells.rows[1]; row++) {
      for (let column = cells.columns[0]; column <= cells.columns[1]; column++)
        wanted.push({
          key: `${at} ${column} ${row}`,
          column,
          row,
          far: Math.hypot(column - entry(middle, 0), row - entry(middle, 1)),
        });
    }
    const there = wanted.flatMap(({ key }) => {
      const tile = this.tiles.get(key);
      return tile?.state === "there" ? [{ key, tile }] : [];
    });
    // Until all have come, those of other levels stand in for them.
    if (there.length < wanted.length) {
      const others = [...this.tiles.values()]
        .filter((t) => t.state === "there" && t.level !== at)
        .sort((a, b) => a.level - b.level);
      for (const tile of others) this.drawTile(c, now, tile, dense);
    }
    for (const { key, tile } of there) {
      this.drawTile(c, now, tile, dense);
      // The latest used are the last to be forgotten.
      this.tiles.delete(key);
      this.tiles.set(key, tile);
    }
    const lost = wanted.filter(({ key }) => this.tiles.get(key)?.state === "lost").length;
    this.say(lost > 0 && lost === wanted.length);
    const begin = () =>
      this.ask(
        now,
        at,
        wanted.sort((a, b) => a.far - b.far),
      );
    window.clearTimeout(this.timer);
    // While the reader zooms from level to level, nothing is asked for that would be gone again.
    if (at === this.lastLevel || this.lastLevel < 0) begin();
    else this.timer = window.setTimeout(begin, 120);
    this.lastLevel = this.lastLevel < 0 ? at : this.lastLevel;
  }

  private ask(
    now: TileBackdrop,
    level: number,
    wanted: { key: string; column: number; row: number }[],
  ): void {
    this.lastLevel = level;
    const keys = new Set(wanted.map(({ key }) => key));
    let waiting = 0;
    for (const [key, tile] of this.tiles) {
      if (tile.state === "waiting" && !keys.has(key)) {
        giveUp(tile);
        this.tiles.delete(key);
      } else if (tile.state === "waiting") waiting++;
    }
    for (const { key, column, row } of wanted) {
      if (waiting >= AT_ONCE) break;
      const known = this.tiles.get(key);
      if (known && (known.state !== "lost" || Date.now() - known.since < AGAIN)) continue;
      waiting++;
      const tile: Tile = {
        image: new Image(),
        state: "waiting",
        level,
        column,
        row,
        since: Date.now(),
      };
      const done = (state: Tile["state"]) => () => {
        if (this.tiles.get(key) !== tile) return;
        tile.state = state;
        tile.since = Date.now();
        this.draw();
      };
      tile.image.onload = done("there");
      tile.image.onerror = done("lost");
      tile.image.src = tileAddress(now, entry(now.levels, level), column, row);
      this.tiles.set(key, tile);
    }
    for (const [key, tile] of this.tiles) {
      if (this.tiles.size <= Math.max(KEPT, 2 * wanted.length)) break;
      if (!keys.has(key) && tile.state !== "waiting") this.tiles.delete(key);
    }
  }

  // Edges are whole pixels of the screen, so that no seam shows between tiles.
  private drawTile(
    c: CanvasRenderingContext2D,
    now: TileBackdrop,
    { image, level, column, row }: Tile,
    dense: number,
  ): void {
    const l = entry(now.levels, level);
    const x = l.x + column * l.metres * l.width;
    const y = l.y - row * l.metres * l.height;
    const pixel = (x: number, y: number) => {
      const [px, py] = this.camera.toScreen(x, y);
      return [Math.round(px * dense), Math.round(py * dense)] as const;
    };
    const [left, top] = pixel(x, y);
    const [right, bottom] = pixel(x + l.metres * l.width, y - l.metres * l.height);
    if (right <= 0 || bottom <= 0 || left >= c.canvas.width || top >= c.canvas.height) return;
    c.drawImage(image, left, top, right - left, bottom - top);
  }
}

function giveUp(tile: Tile): void {
  tile.image.onload = tile.image.onerror = null;
  if (tile.state === "waiting") tile.image.removeAttribute("src");
}

// The picture cell by cell of its net, each as two triangles.
function drawPicture(
  c: CanvasRenderingContext2D,
  net: PictureBackdrop,
  image: HTMLImageElement,
  camera: Camera,
  dense: number,
): void {
  const n = net.cells;
  const { naturalWidth: wide, naturalHeight: high } = image;
  const at = (i: number, j: number): Corner => {
    const k = j * (n + 1) + i;
    const [x, y] = camera.toScreen(entry(net.x, k), entry(net.y, k));
    return { u: (i / n) * wide, v: (j / n) * high, x: x * dense, y: y * dense };
  };
  c.imageSmoothingEnabled = true;
  for (let j = 0; j < n; j++) {
    for (let i = 0; i < n; i++) {
      const [a, b, d, e] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
      triangle(c, image, a, b, d);
      triangle(c, image, a, d, e);
    }
  }
  c.setTransform(1, 0, 0, 1, 0, 0);
}

interface Corner {
  u: number;
  v: number;
  x: number;
  y: number;
}

function triangle(
  c: CanvasRenderingContext2D,
  image: HTMLImageElement,
  ...corners: [Corner, Corner, Corner]
): void {
  const [p, q, r] = corners;
  const xs = corners.map((k) => k.x);
  const ys = corners.map((k) => k.y);
  if (
    Math.max(...xs) < 0 ||
    Math.max(...ys) < 0 ||
    Math.min(...xs) > c.canvas.width ||
    Math.min(...ys) > c.canvas.height
  )
    return;
  const det = (q.u - p.u) * (r.v - p.v) - (r.u - p.u) * (q.v - p.v);
  const slope = (a: number, b: number, d: number): [number, number] => [
    ((b - a) * (r.v - p.v) - (d - a) * (q.v - p.v)) / det,
    ((d - a) * (q.u - p.u) - (b - a) * (r.u - p.u)) / det,
  ];
  const [xu, xv] = slope(p.x, q.x, r.x);
  const [yu, yv] = slope(p.y, q.y, r.y);
  c.save();
  c.setTransform(1, 0, 0, 1, 0, 0);
  c.beginPath();
  // A little wider than it is, so that no seam shows.
  const mx = (p.x + q.x + r.x) / 3;
  const my = (p.y + q.y + r.y) / 3;
  corners.forEach(({ x, y }, k) => {
    const far = Math.hypot(x - mx, y - my) || 1;
    const [gx, gy] = [x + (1.2 * (x - mx)) / far, y + (1.2 * (y - my)) / far];
    if (k) c.lineTo(gx, gy);
    else c.moveTo(gx, gy);
  });
  c.clip();
  c.setTransform(xu, yu, xv, yv, p.x - xu * p.u - xv * p.v, p.y - yu * p.u - yv * p.v);
  c.drawImage(image, 0, 0);
  c.restore();
}
