// What the page receives: a plan as R/page-payload.R writes it. Every word and colour in it is
// final; the viewer computes none.

export const VERSION = 1;

export interface Topology {
  transform: { scale: [number, number]; translate: [number, number] };
  arcs: [number, number][][];
  objects: Record<string, { geometries: Geometry[] }>;
}

export type Geometry =
  | { type: "MultiPolygon"; arcs: number[][][] }
  | { type: "MultiLineString"; arcs: number[][] }
  | { type: null };

export interface Popup {
  labels: string[];
  fields: (string | null)[][];
}

interface Texts {
  id: string;
  legend: string | null;
  hover: string[] | null;
  popup: Popup | null;
}

export interface AreaLayer extends Texts {
  kind: "areas";
  class: number[];
  colours: string[];
  labels: string[];
  counts: number[];
  count_labels: string[];
  outline: string;
  no_data: { label: string; colour: string; count: number; count_label: string };
  // The class whose areas carry a hatch instead of a colour.
  hatch?: { class: number; colour: string } | null;
  // Two variables: classes run along the first one fastest; breaks are written along both sides.
  square?: { n: number; titles: [string, string]; first: string[]; second: string[] } | null;
}

export interface SymbolLayer extends Texts {
  kind: "symbols";
  x: number[];
  y: number[];
  r: number[];
  colour: string;
  sizes: { labels: string[]; r: number[] };
  // Classes of the column that colours the symbols.
  key?: {
    legend: string; class: number[]; labels: string[]; colours: string[]; count_labels: string[];
    no_data: { label: string; colour: string; count: number; count_label: string };
  } | null;
}

export interface LineLayer extends Texts {
  kind: "lines";
  colour: string;
  width: number;
  dash: boolean;
}

export type Layer = AreaLayer | SymbolLayer | LineLayer;

export interface Payload {
  version: number;
  locale: string;
  alt: string;
  title: string;
  subtitle: string | null;
  source: string | null;
  note: string | null;
  frame: [number, number, number, number];
  // Far-off parts stand in frames of their own, already moved there.
  insets?: { frame: [number, number, number, number]; label: string }[];
  topology: Topology;
  layers: Layer[];
}

export function checkVersion(payload: { version?: unknown }): void {
  if (payload.version !== VERSION) {
    throw new Error(`This map was made for version ${String(payload.version)} of the viewer, but the page holds version ${VERSION}. Publish the map again.`);
  }
}
