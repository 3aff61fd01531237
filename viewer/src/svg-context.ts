// A canvas that writes SVG: what a map is drawn with, no more. The same steps that paint the screen
// make a picture for paper and for saving.
import { canvasContext } from "./elements";
import type { Surface } from "./surface";

const number = (v: number): string => String(Math.round(v * 100) / 100);
const escape = (text: string): string =>
  text.replace(/&/g, "&amp;").replace(/</g, "&lt;").replace(/"/g, "&quot;");

// A font of a canvas as attributes: a page's policy lets no markup bring a style.
function fontOf(font: string): string {
  const found = /^(.*?)\s*([\d.]+)px\s+(.*)$/.exec(font);
  const [, weight = "", size = "12", family = "sans-serif"] = found ?? [];
  const bold = /bold|[6-9]00/.test(weight) ? ' font-weight="700"' : "";
  return `font-family="${escape(family)}" font-size="${size}"${bold}`;
}

// A path as text; coordinates of the map are large, and are kept to a thousandth of a pixel.
class PathText {
  d = "";
  constructor(private readonly digits: number) {}

  private at(x: number, y: number): string {
    return `${x.toFixed(this.digits)} ${y.toFixed(this.digits)}`;
  }
  moveTo(x: number, y: number): void {
    this.d += `M${this.at(x, y)}`;
  }
  lineTo(x: number, y: number): void {
    this.d += `L${this.at(x, y)}`;
  }
  rect(x: number, y: number, width: number, height: number): void {
    this.moveTo(x, y);
    this.lineTo(x + width, y);
    this.lineTo(x + width, y + height);
    this.lineTo(x, y + height);
    this.closePath();
  }
  closePath(): void {
    this.d += "Z";
  }
  // A whole circle as two halves: an arc of SVG cannot end where it begins.
  arc(x: number, y: number, r: number, from: number, to: number, back = false): void {
    const point = (angle: number) => this.at(x + r * Math.cos(angle), y + r * Math.sin(angle));
    const turn = back ? -1 : 1;
    let sweep = turn * (to - from);
    if (Math.abs(to - from) >= 2 * Math.PI - 1e-9) sweep = 2 * Math.PI;
    else sweep = ((sweep % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI);
    this.d += `${this.d && !this.d.endsWith("Z") ? "L" : "M"}${point(from)}`;
    for (const part of [0.5, 1]) {
      const end = point(from + turn * sweep * part);
      this.d += `A${r.toFixed(this.digits)} ${r.toFixed(this.digits)} 0 0 ${back ? 0 : 1} ${end}`;
    }
  }
}

interface Look {
  matrix: number[];
  clip: string | null;
}

export class SvgContext {
  globalAlpha = 1;
  fillStyle = "#000000";
  strokeStyle = "#000000";
  lineWidth = 1;
  lineJoin = "miter";
  lineCap = "butt";
  font = "10px sans-serif";
  textAlign = "start";
  textBaseline = "alphabetic";
  imageSmoothingEnabled = true;
  readonly canvas: { width: number; height: number };
  private readonly parts: string[] = [];
  private readonly saved: Look[] = [];
  private readonly rule = canvasContext(document.createElement("canvas"));
  private matrix = [1, 0, 0, 1, 0, 0];
  private clipped: string | null = null;
  private dash: number[] = [];
  private path = new PathText(2);
  private clips = 0;

  constructor(
    private readonly id: string,
    width: number,
    height: number,
  ) {
    this.canvas = { width, height };
  }

  // What the painter draws with; paths of the map are written as finely as `scale` asks.
  surface(scale: number): Surface {
    const digits = Math.max(0, Math.ceil(Math.log10(scale)) + 1);
    return {
      dense: 1,
      path: () => new PathText(digits) as unknown as Path2D,
      open: (opacity) => this.parts.push(`<g opacity="${opacity}">`),
      close: () => this.parts.push("</g>"),
    };
  }
  get context(): CanvasRenderingContext2D {
    return this as unknown as CanvasRenderingContext2D;
  }
  get markup(): string {
    return this.parts.join("");
  }

  setTransform(...matrix: number[]): void {
    this.matrix = matrix;
  }
  save(): void {
    this.saved.push({ matrix: this.matrix, clip: this.clipped });
  }
  restore(): void {
    const last = this.saved.pop();
    if (last) [this.matrix, this.clipped] = [last.matrix, last.clip];
  }
  setLineDash(dash: number[]): void {
    this.dash = dash;
  }
  beginPath(): void {
    this.path = new PathText(2);
  }
  moveTo(x: number, y: number): void {
    this.path.moveTo(x, y);
  }
  lineTo(x: number, y: number): void {
    this.path.lineTo(x, y);
  }
  rect(x: number, y: number, width: number, height: number): void {
    this.path.rect(x, y, width, height);
  }
  arc(x: number, y: number, r: number, from: number, to: number, back?: boolean): void {
    this.path.arc(x, y, r, from, to, back);
  }
  closePath(): void {
    this.path.closePath();
  }
  clearRect(): void {
    return;
  }

  fill(path?: unknown, rule?: unknown): void {
    const { d } = path instanceof PathText ? path : this.path;
    const how = rule === "evenodd" ? ' fill-rule="evenodd"' : "";
    this.put(`<path d="${d}" fill="${this.fillStyle}"${how}${this.look("fill")}/>`, d);
  }
  stroke(path?: unknown): void {
    const { d } = path instanceof PathText ? path : this.path;
    const dash = this.dash.length ? ` stroke-dasharray="${this.dash.map(number).join(" ")}"` : "";
    const width = ` stroke-width="${Number(this.lineWidth.toPrecision(4))}"`;
    const join = ` stroke-linejoin="${this.lineJoin}"`;
    const line = `fill="none" stroke="${this.strokeStyle}"${width}${join}`;
    this.put(`<path d="${d}" ${line}${dash}${this.look("stroke")}/>`, d);
  }
  strokeRect(x: number, y: number, width: number, height: number): void {
    const path = new PathText(2);
    path.rect(x, y, width, height);
    this.stroke(path);
  }
  clip(path: unknown): void {
    if (!(path instanceof PathText)) return;
    // Within what is clipped already.
    const within = this.clipped ? ` clip-path="url(#${this.clipped})"` : "";
    this.clipped = `${this.id}-clip-${++this.clips}`;
    const shape = `<path d="${path.d}" clip-rule="evenodd"${this.placed()}/>`;
    this.parts.push(`<clipPath id="${this.clipped}"${within}>${shape}</clipPath>`);
  }
  measureText(text: string): TextMetrics {
    this.rule.font = this.font;
    return this.rule.measureText(text);
  }
  fillText(text: string, x: number, y: number): void {
    this.text(text, x, y, `fill="${this.fillStyle}"`);
  }
  strokeText(text: string, x: number, y: number): void {
    const line = `fill="none" stroke="${this.strokeStyle}" stroke-width="${this.lineWidth}"`;
    this.text(text, x, y, `${line} stroke-linejoin="round"`);
  }
  drawImage(image: HTMLCanvasElement, x: number, y: number, width: number, height: number): void {
    const size = `x="${number(x)}" y="${number(y)}" width="${number(width)}"`;
    const how = this.imageSmoothingEnabled ? "" : ' image-rendering="pixelated"';
    this.put(
      `<image href="${image.toDataURL()}" ${size} height="${number(height)}" ` +
        `preserveAspectRatio="none" opacity="${this.globalAlpha}"${how}/>`,
      "image",
    );
  }

  private text(text: string, x: number, y: number, look: string): void {
    const anchor = { center: "middle", end: "end", right: "end" }[this.textAlign] ?? "start";
    const base = { middle: "central", top: "hanging", bottom: "text-after-edge" };
    const line = base[this.textBaseline as keyof typeof base] ?? "alphabetic";
    const set = `text-anchor="${anchor}" dominant-baseline="${line}"${this.placed()}`;
    this.parts.push(
      `<text x="${number(x)}" y="${number(y)}" ${fontOf(this.font)} ${look} ${set}>` +
        `${escape(text)}</text>`,
    );
  }
  private put(part: string, d: string): void {
    if (!d) return;
    this.parts.push(this.clipped ? `<g clip-path="url(#${this.clipped})">${part}</g>` : part);
  }
  private look(of: "fill" | "stroke"): string {
    const alpha = this.globalAlpha < 1 ? ` ${of}-opacity="${this.globalAlpha}"` : "";
    return alpha + this.placed();
  }
  private placed(): string {
    if (this.matrix.join() === "1,0,0,1,0,0") return "";
    return ` transform="matrix(${this.matrix.map((v) => Number(v.toPrecision(9))).join(" ")})"`;
  }
}
