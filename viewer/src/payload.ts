// What the page receives: a plan as R/page-payload.R writes it. Every word and colour in it is
// final; the viewer computes none.

import type { ByZoom } from "./zoom";

export const VERSION = 3;

export interface Topology {
  transform: { scale: [number, number]; translate: [number, number] };
  arcs: [number, number][][];
  objects: Record<string, { geometries: Geometry[] }>;
}

export type Geometry =
  | { type: "MultiPolygon"; arcs: number[][][] }
  | { type: "MultiLineString"; arcs: number[][] }
  | { type: null };

// A field's kind says how it is shown; of links and pictures `texts` are the words beside the address.
export interface Popup {
  labels: string[];
  kinds: ("text" | "link" | "picture")[];
  fields: (string | null)[][];
  texts?: ((string | null)[] | null)[] | null;
}

export interface Rest {
  label: string;
  colour: string;
  count: number;
  count_label: string;
}

export interface Histogram {
  counts: number[];
  class: number[];
  breaks: number[];
  ends: [string, string];
}

interface Texts {
  id: string;
  name: string;
  legend: string | null;
  legend_note?: string | null;
  hover: string[] | null;
  popup: Popup | null;
  // How the layer stands at first, and between which zooms it is shown.
  show?: { off: boolean; opacity?: number; zooms: [number, number] | null } | null;
}

// What an area layer shows in one panel; with panels of shared steps the classes' words and colours are the layer's.
export interface AreaPanel {
  class: number[];
  hover: string[] | null;
  popup: Popup | null;
  counts: number[];
  count_labels: string[];
  no_data: Rest;
  // Where each value lies between the least and the greatest of all panels, in thousandths; -1 for none.
  share?: number[] | null;
  rank?: number[] | null;
  // Of a table or ranked bars: the values as they are written and as they are.
  values?: (string | null)[] | null;
  numbers?: (number | null)[] | null;
  labels?: string[];
  colours?: string[];
  histogram?: Histogram | null;
}

export interface AreaLayer extends Texts, AreaPanel {
  kind: "areas";
  colours: string[];
  labels: string[];
  names: (string | null)[] | null;
  codes: (string | null)[] | null;
  outline: string;
  // The class whose areas carry a hatch instead of a colour.
  hatch?: { class: number; colour: string } | null;
  // Two variables: classes run along the first one fastest; breaks are written along both sides.
  square?: { n: number; titles: [string, string]; first: string[]; second: string[] } | null;
  panels?: AreaPanel[] | null;
}

export interface Key {
  legend: string;
  class: number[];
  labels: string[];
  colours: string[];
  count_labels: string[];
  no_data: Rest;
}

export interface SymbolLayer extends Texts {
  kind: "symbols";
  x: number[];
  y: number[];
  r: number[];
  colour: string;
  opacity: number;
  rim: string;
  // Many of them are drawn as counted circles until the reader comes near.
  group?: boolean | null;
  panel?: number[] | null;
  // Corners of the shape in units of the radius; none for a circle.
  outline?: { x: number[]; y: number[] } | null;
  bar?: { width: number; height: number[]; marks: number[] } | null;
  second?: { r: number[]; colour: string; labels: [string, string] } | null;
  // How many times as large symbols are as on the whole map.
  zoomed?: { size?: ByZoom<number> } | null;
  // Where symbols that were moved apart belong.
  from?: { x: number[]; y: number[] } | null;
  sizes: { labels: string[]; r: number[] };
  // Classes of the column that colours the symbols.
  key?: Key | null;
}

export interface LineLayer extends Texts {
  kind: "lines";
  colour: string;
  width: number | number[];
  widths?: { labels: string[]; width: number[] } | null;
  dash: boolean;
  casing?: string | null;
  arrow: boolean;
  key?: Key | null;
  zoomed?: { width?: ByZoom<number>; dash?: ByZoom<number[]> } | null;
}

// Classes of the cells of a grid, as runs of equal ones, row by row from below.
export interface DensityLayer extends Texts {
  kind: "density";
  labels: string[];
  colours: string[];
  opacity: number;
  grid: { x0: number; y0: number; cell: number; columns: number; rows: number; runs: number[]; class: number[] };
}

// Points whose surface is made at each zoom; labels stand at both ends of the colours.
export interface HeatLayer extends Texts {
  kind: "heat";
  x: number[];
  y: number[];
  weight?: number[] | null;
  radius: number; // pixels
  opacity: number;
  labels: string[];
  colours: string[];
}

// Labels, the most important first; each keeps clear of a symbol of radius `r` on its place.
export interface NamesLayer extends Texts {
  kind: "labels";
  text: string[];
  x: number[];
  y: number[];
  r: number[];
  scale: number;
  colour: string;
  halo: string | null;
  // On what lies under them: the colours in use, which one each label has (of panels in each), and the layer that lies there (-1
  // for none); when that is not shown, the plain colour holds.
  inks?: string[] | null;
  halos?: string[] | null;
  ink?: number[][] | null;
  over?: number[] | null;
  bold: boolean;
  centred: boolean;
  zoomed?: { size?: ByZoom<number> } | null;
}

export type Layer = AreaLayer | SymbolLayer | LineLayer | DensityLayer | HeatLayer | NamesLayer;

// A level of tiles in map units: its upper left corner, a pixel's width, and how many tiles there are.
export interface TileLevel {
  id: string;
  metres: number;
  x: number;
  y: number;
  width: number;
  height: number;
  columns: number;
  rows: number;
  // Rows are counted from below; columns go on around the globe.
  up?: boolean;
  around?: boolean;
}

interface Credited {
  name: string;
  attribution: string;
  link?: string | null;
  opacity: number;
}

export interface TileBackdrop extends Credited {
  kind: "tiles";
  url: string;
  levels: TileLevel[];
}

// Map positions of the corners of `cells` by `cells` pieces of a picture, row by row from the top.
export interface PictureBackdrop extends Credited {
  kind: "picture";
  address: string;
  cells: number;
  x: number[];
  y: number[];
}

export type Backdrop = { kind: "plain"; name: string } | TileBackdrop | PictureBackdrop;

export interface Inks {
  ground: string;
  text: string;
  soft: string;
  faint: string;
  line: string;
  rim: string;
}

// The same shape as a payload's, colours only.
export interface Recolouring {
  inks: Inks;
  layers: Record<string, unknown>[];
}

export interface PageStyle {
  hover: "pointer" | "panel";
  click: "popup" | "zoom" | "both" | "nothing";
  search: boolean;
  layers: boolean;
  bars: number;
  table: boolean;
  download: boolean;
  tools: string[];
  // Address of a service that finds places.
  places?: string | null;
  // For each panel its totals.
  cards: { label: string; value: string }[][] | null;
}

export interface ProjectionPlan {
  name: string;
  lon0: number;
  lat0: number;
  lat1: number;
  lat2: number;
}

export interface NumberMarks {
  decimal: string;
  thousands: string;
}

export interface Payload {
  version: number;
  locale: string;
  alt: string;
  title: string;
  subtitle: string | null;
  source: string | null;
  note: string | null;
  ground: "light" | "dark";
  inks: Inks;
  style: { place: "beside" | "below" | "inside" | "none" | null; counts: boolean; histogram: boolean };
  panels: string[] | null;
  words: Record<string, string>;
  marks: NumberMarks;
  page: PageStyle;
  // Colours for readers who have set a dark page, where the map follows them.
  dark: Recolouring | null;
  projection: ProjectionPlan;
  frame: [number, number, number, number];
  // Far-off parts stand in frames of their own, already moved there.
  insets?: { frame: [number, number, number, number]; label: string }[];
  topology: Topology;
  layers: Layer[];
  backdrops: Backdrop[];
}

export function checkVersion(payload: { version?: unknown }): void {
  if (payload.version !== VERSION) {
    throw new Error(`This map was made for version ${String(payload.version)} of the viewer, but the page holds version ${VERSION}. Publish the map again.`);
  }
}
