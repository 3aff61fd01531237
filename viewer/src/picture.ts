// The map as a picture of its own: as vectors for paper, and as SVG or PNG to be saved, with title,
// legend and source as they stand on the page.
import type { Camera } from "./camera";
import { Painter } from "./draw";
import { canvasContext, svg } from "./elements";
import type { Frame } from "./frame";
import type { Scene } from "./scene";
import type { MapState } from "./state";
import { SvgContext } from "./svg-context";
import { atOnce } from "./work";

const DENSE = 2; // pixels of a saved PNG for a CSS pixel

export interface Pictured {
  scene: Scene;
  camera: Camera;
  state: MapState;
  frame: Frame;
}

let pictures = 0;

// What of the stage the map takes, in CSS pixels: of the whole map, no empty room beside it.
function shown({ camera }: Pictured): [number, number, number, number] {
  if (camera.zoom > 1 + 1e-9) return [0, 0, camera.width, camera.height];
  const [x0, y0, x1, y1] = camera.frame;
  const [left, top] = camera.toScreen(x0, y1);
  const [right, bottom] = camera.toScreen(x1, y0);
  const m = camera.margin;
  const [x, y] = [Math.max(0, left - m), Math.max(0, top - m)];
  return [x, y, Math.min(camera.width, right + m) - x, Math.min(camera.height, bottom + m) - y];
}

// The map as it is seen, in markup of SVG.
function drawMap({ scene, camera, state }: Pictured): string {
  const c = new SvgContext(`ochre-picture-${++pictures}`, camera.width, camera.height);
  const blank = () => document.createElement("canvas");
  const painter = new Painter(scene, camera, state, [blank(), blank()], c.surface(camera.scale));
  atOnce(painter.steps(c.context));
  return c.markup;
}

// What lies under the data, as pictures in markup; null where tiles of a server that lets no others
// read them cannot be had but on the screen.
function drawBackdrops({ frame, camera }: Pictured): string | null {
  const canvases = frame.stage.querySelectorAll<HTMLCanvasElement>(".ochre-backdrop");
  let out = "";
  try {
    for (const canvas of canvases) {
      if (canvas.width < 2) continue;
      const size = `width="${camera.width}" height="${camera.height}"`;
      out += `<image href="${canvas.toDataURL()}" ${size} opacity="${canvas.style.opacity || 1}"/>`;
    }
  } catch {
    return null;
  }
  return out;
}

export interface PaperMap {
  drawing: SVGElement;
  // What lies under the data is not in it: its canvas must be shown below.
  bare: boolean;
}

// On paper the stage holds this in place of its canvases.
export function paperMap(on: Pictured): PaperMap {
  const under = drawBackdrops(on);
  const { width, height } = on.camera;
  const box = under === null ? [0, 0, width, height] : shown(on);
  const drawing = svg("svg", {
    class: "ochre-paper",
    viewBox: box.join(" "),
    width: box[2] ?? 0,
    height: box[3] ?? 0,
    role: "img",
    "aria-label": on.state.payload.alt,
  });
  drawing.insertAdjacentHTML("beforeend", (under ?? "") + drawMap(on));
  return { drawing, bare: under === null };
}

// The page's map with its words and legend; texts and drawings of the legend stand where they stand
// on the page.
interface Whole {
  markup: string;
  width: number;
  height: number;
  bare: boolean;
}

function wholePicture(on: Pictured): Whole {
  const { frame, state } = on;
  const { inks } = state.payload;
  const origin = frame.page.getBoundingClientRect();
  const { beyond, back } = unscrolled(frame.page);
  const stage = frame.stage.getBoundingClientRect();
  const [x, y] = [stage.left - origin.left, stage.top - origin.top];
  const parts: string[] = [];
  const { width } = origin;
  const height = origin.height + beyond;
  parts.push(`<rect width="${width}" height="${height}" fill="${inks.ground}"/>`);
  const room = { width: on.camera.width, height: on.camera.height };
  const view = `x="${x}" y="${y}" width="${room.width}" height="${room.height}"`;
  const under = drawBackdrops(on);
  const map = (under ?? "") + drawMap(on);
  parts.push(`<svg ${view} viewBox="0 0 ${room.width} ${room.height}">${map}</svg>`);
  const written = ".ochre-titles, .ochre-legend-parts, .ochre-credit, .ochre-cards";
  for (const part of frame.page.querySelectorAll(written)) parts.push(copy(part, origin));
  parts.push(copy(frame.foot, new DOMRect(origin.x, origin.y - beyond)));
  back();
  const size = `width="${width}" height="${height}" viewBox="0 0 ${width} ${height}"`;
  const head = `<svg xmlns="http://www.w3.org/2000/svg" ${size}>`;
  return { markup: `${head}${parts.join("")}</svg>`, width, height, bare: under === null };
}

// A legend that scrolls is there as a whole, from its first line on; the picture is so much higher.
function unscrolled(page: HTMLElement): { beyond: number; back: () => void } {
  const legend = page.querySelector(".ochre-legend");
  if (!legend) return { beyond: 0, back: () => undefined };
  const now = legend.scrollTop;
  legend.scrollTop = 0;
  const bottom = (part: Element) => part.getBoundingClientRect().bottom;
  const parts = [...legend.querySelectorAll(".ochre-legend-parts, .ochre-cards")].map(bottom);
  const beyond = Math.max(0, ...parts.map((at) => at - bottom(legend)));
  return { beyond, back: () => (legend.scrollTop = now) };
}

// The words, swatches and drawings within a part of the page, where they stand.
function copy(part: Element, origin: DOMRect): string {
  const out: string[] = [];
  for (const swatch of part.querySelectorAll<HTMLElement>(".ochre-swatch"))
    out.push(rectangle(swatch, origin));
  for (const drawing of part.querySelectorAll("svg")) out.push(nested(drawing, origin));
  const words = document.createTreeWalker(part, NodeFilter.SHOW_TEXT);
  for (let node = words.nextNode(); node; node = words.nextNode())
    if (!node.parentElement?.closest("svg, .ochre-unseen, [hidden]"))
      out.push(...lines(node as Text, origin));
  return out.join("");
}

function rectangle(of: HTMLElement, origin: DOMRect): string {
  const box = of.getBoundingClientRect();
  const { backgroundColor, opacity } = getComputedStyle(of);
  const place = `x="${box.left - origin.left}" y="${box.top - origin.top}"`;
  const size = `width="${box.width}" height="${box.height}" rx="2"`;
  return `<rect ${place} ${size} fill="${backgroundColor}" opacity="${opacity}"/>`;
}

// A drawing of the legend with the colours that the page's style gives it.
function nested(drawing: SVGSVGElement, origin: DOMRect): string {
  const box = drawing.getBoundingClientRect();
  if (!box.width) return "";
  const twin = drawing.cloneNode(true) as SVGSVGElement;
  const from = drawing.querySelectorAll("*");
  twin.querySelectorAll("*").forEach((node, i) => {
    const style = from[i] ? getComputedStyle(from[i]) : null;
    for (const key of ["fill", "stroke", "stroke-width", "font", "text-anchor"])
      if (style) (node as SVGElement).style.setProperty(key, style.getPropertyValue(key));
  });
  const place = { x: box.left - origin.left, y: box.top - origin.top };
  for (const [key, value] of Object.entries({ ...place, width: box.width, height: box.height }))
    twin.setAttribute(key, String(value));
  return new XMLSerializer().serializeToString(twin);
}

// The lines that a text is broken into.
function lines(node: Text, origin: DOMRect): string[] {
  const parent = node.parentElement;
  if (!parent || !node.data.trim()) return [];
  const { color, fontFamily, fontSize, fontWeight } = getComputedStyle(parent);
  const range = document.createRange();
  const found: { text: string; box: DOMRect }[] = [];
  for (let i = 0; i < node.data.length; i++) {
    range.setStart(node, i);
    range.setEnd(node, i + 1);
    const box = range.getClientRects()[0];
    if (!box) continue;
    const last = found.at(-1);
    if (last && Math.abs(last.box.top - box.top) < 2) last.text += node.data[i];
    else found.push({ text: node.data.slice(i, i + 1), box });
  }
  return found.map(({ text, box }) => {
    const base = box.top - origin.top + box.height / 2 + 0.35 * parseFloat(fontSize);
    const escaped = new Option(text).innerHTML.replace(/"/g, "&quot;");
    const family = fontFamily.replace(/"/g, "'");
    const font = `font-family="${family}" font-size="${fontSize}" font-weight="${fontWeight}"`;
    const look = `${font} fill="${color}"`;
    return `<text x="${box.left - origin.left}" y="${base}" ${look}>${escaped}</text>`;
  });
}

// Says whether what lies under the data had to be left out.
export async function savePicture(on: Pictured, kind: "svg" | "png", name: string) {
  const { markup, width, height, bare } = wholePicture(on);
  const file = new Blob([markup], { type: "image/svg+xml;charset=utf-8" });
  save(`${name}.${kind}`, kind === "svg" ? file : await asPng(markup, width, height));
  return { bare };
}

async function asPng(markup: string, width: number, height: number): Promise<Blob> {
  const picture = new Image();
  picture.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(markup)}`;
  await picture.decode();
  const c = canvasContext(document.createElement("canvas"));
  c.canvas.width = Math.round(DENSE * width);
  c.canvas.height = Math.round(DENSE * height);
  c.drawImage(picture, 0, 0, c.canvas.width, c.canvas.height);
  return new Promise((done, fail) =>
    c.canvas.toBlob((blob) => (blob ? done(blob) : fail(new Error()))),
  );
}

export function save(name: string, file: Blob): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

export const fileName = (title: string): string =>
  title.replace(/[^\p{L}\p{N}]+/gu, "-").slice(0, 60);
