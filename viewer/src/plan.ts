// Made from inst/schema/plan.schema.json by viewer/generate.mjs; do not edit.

export type Backdrop = PlainBackdrop | TileBackdrop | PictureBackdrop;
export type Overlay = TileBackdrop | PictureBackdrop;
export type Layer = AreaLayer | SymbolLayer | LineLayer | DensityLayer | HeatLayer | NamesLayer;

/**
 * A map resolved against its data: all that is drawn, in which colour, with which words. Renderers read nothing else. Every field is there; null says that there is nothing. `x-page: false` marks what only a figure needs, `x-table` what a page carries only where a table or bars show it, `x-decimals` and `x-figures` how numbers are rounded in a page.
 */
export interface Plan {
  /**
   * Version of this contract.
   */
  version: 5;
  /**
   * Language of the map's words (BCP 47).
   */
  locale: string;
  /**
   * What the map shows, for those who do not see it.
   */
  alt: string;
  /**
   * Title.
   */
  title: string;
  /**
   * Subtitle.
   */
  subtitle: string | null;
  /**
   * Source, with its word before it.
   */
  source: string | null;
  /**
   * Where the source leads in a page; null for nowhere.
   */
  source_link: string | null;
  /**
   * Note.
   */
  note: string | null;
  /**
   * What the map is drawn on.
   */
  ground: "light" | "dark";
  /**
   * Colours beside the data.
   */
  inks: Inks;
  /**
   * Wishes for legend and figure.
   */
  style: Style;
  /**
   * Labels of the maps for periods or groups, in order; null for one map.
   */
  panels: string[] | null;
  /**
   * Words of the page's controls by their keys; {0} and {1} stand for what is put in.
   */
  words: {
    [k: string]: string;
  };
  /**
   * How numbers are written.
   */
  marks: NumberMarks;
  /**
   * What a reader can do with a page.
   */
  page: PageStyle;
  /**
   * The colours on a dark ground, where the map follows its readers.
   */
  dark: Recolouring | null;
  /**
   * How the globe is laid flat.
   */
  projection: ProjectionPlan;
  /**
   * Left, lower, right and upper edge of the map in map units (about metres).
   *
   * @minItems 4
   * @maxItems 4
   */
  frame: [number, number, number, number];
  /**
   * What may lie under the data; the first is shown first.
   */
  backdrops: Backdrop[];
  /**
   * Tiles and pictures that a reader can lay over the backdrop, below the data; all are off at first.
   */
  overlays: Overlay[];
  /**
   * Frames of far-off parts.
   */
  insets: Inset[];
  /**
   * Shared borders.
   */
  topology: Topology;
  /**
   * What is drawn, in this order: the first lies lowest.
   */
  layers: Layer[];
  /**
   * Areas that a page loads as they come into view; null where all are in the plan.
   */
  sections: Sections | null;
}
/**
 * Colours of what stands beside the data, on the map's ground.
 */
export interface Inks {
  /**
   * Colour of the paper, as #RRGGBB
   */
  ground: string;
  /**
   * Colour of words, as #RRGGBB
   */
  text: string;
  /**
   * Colour of lesser words, as #RRGGBB
   */
  soft: string;
  /**
   * Colour of thin lines and frames, as #RRGGBB
   */
  faint: string;
  /**
   * Colour of drawn lines by default, as #RRGGBB
   */
  line: string;
  /**
   * Colour around symbols and letters, as #RRGGBB
   */
  rim: string;
}
/**
 * Wishes for legend and figure.
 */
export interface Style {
  /**
   * The legend.
   */
  legend: LegendStyle;
}
/**
 * How the legend looks.
 */
export interface LegendStyle {
  /**
   * Where it stands; null where room decides.
   */
  place: "beside" | "below" | "inside" | "none" | null;
  /**
   * True for a count beside each class.
   */
  counts: boolean;
  /**
   * True for bars of the values.
   */
  histogram: boolean;
}
/**
 * How numbers are written.
 */
export interface NumberMarks {
  /**
   * Mark before decimals.
   */
  decimal: string;
  /**
   * Mark between thousands.
   */
  thousands: string;
}
/**
 * What a reader can do with a page.
 */
export interface PageStyle {
  /**
   * Where labels stand.
   */
  hover: "pointer" | "panel";
  /**
   * What a press does.
   */
  click: "popup" | "zoom" | "both" | "nothing";
  /**
   * True for a search field.
   */
  search: boolean;
  /**
   * True for a list of layers.
   */
  layers: boolean;
  /**
   * How many ranked bars.
   */
  bars: number;
  /**
   * True for a table of all values.
   */
  table: boolean;
  /**
   * True where the table can be saved.
   */
  download: boolean;
  /**
   * Tools beside the map.
   */
  tools: string[];
  /**
   * Address of a service that finds places.
   */
  places: string | null;
  /**
   * For each panel its totals; null for none.
   */
  cards: Card[][] | null;
  /**
   * Least and greatest zoom; 1 is the whole map.
   *
   * @minItems 2
   * @maxItems 2
   */
  zooms: [number, number];
  /**
   * The box that is seen first, in map units: left, lower, right, upper; null for the whole map.
   *
   * @minItems 4
   * @maxItems 4
   */
  view: [number, number, number, number] | null;
  /**
   * True for a scale bar that follows the view.
   */
  scale_bar: boolean;
  /**
   * True for a small map of the whole that shows where the reader looks.
   */
  locator: boolean;
  /**
   * Where new values come from; null where none do.
   */
  live: LiveSource | null;
}
/**
 * One total.
 */
export interface Card {
  /**
   * What it is.
   */
  label: string;
  /**
   * Its number as it is written.
   */
  value: string;
}
/**
 * Where a page that is open gets new values from.
 */
export interface LiveSource {
  /**
   * Address, or a path seen from the page; null where they come by message only.
   */
  address: string | null;
  /**
   * Seconds from one question to the next.
   */
  every: number;
}
/**
 * The colours of the map on the other ground, for readers who follow their own.
 */
export interface Recolouring {
  /**
   * Colours beside the data.
   */
  inks: Inks;
  /**
   * Of each layer its colours, under the same names.
   */
  layers: {}[];
}
/**
 * How the globe is laid flat.
 */
export interface ProjectionPlan {
  /**
   * Name of the projection.
   */
  name: string;
  /**
   * Central meridian in degrees.
   */
  lon0: number;
  /**
   * Central parallel in degrees.
   */
  lat0: number;
  /**
   * First standard parallel in degrees.
   */
  lat1: number;
  /**
   * Second standard parallel in degrees.
   */
  lat2: number;
}
/**
 * The paper alone.
 */
export interface PlainBackdrop {
  /**
   * Kind of backdrop.
   */
  kind: "plain";
  /**
   * What the reader chooses it by.
   */
  name: string;
}
/**
 * Tiles of a server.
 */
export interface TileBackdrop {
  /**
   * Kind of backdrop.
   */
  kind: "tiles";
  /**
   * What the reader chooses it by.
   */
  name: string;
  /**
   * Whose it is.
   */
  attribution: string;
  /**
   * Where its owner says more.
   */
  link: string | null;
  /**
   * How much of the paper is covered, 0 to 1.
   */
  opacity: number;
  /**
   * Address with {z}, {x} and {y}.
   */
  url: string;
  /**
   * Its levels, the coarsest first.
   */
  levels: TileLevel[];
}
/**
 * A level of tiles in map units.
 */
export interface TileLevel {
  /**
   * What the server calls it.
   */
  id: string;
  /**
   * Width of a pixel in map units.
   */
  metres: number;
  /**
   * Left edge.
   */
  x: number;
  /**
   * Upper edge.
   */
  y: number;
  /**
   * Pixels of a tile, across.
   */
  width: number;
  /**
   * Pixels of a tile, down.
   */
  height: number;
  /**
   * Tiles in a row.
   */
  columns: number;
  /**
   * Rows.
   */
  rows: number;
  /**
   * True where rows are counted from below.
   */
  up: boolean;
  /**
   * True where columns go on around the globe.
   */
  around: boolean;
}
/**
 * A placed picture, bent over a net.
 */
export interface PictureBackdrop {
  /**
   * Kind of backdrop.
   */
  kind: "picture";
  /**
   * What the reader chooses it by.
   */
  name: string;
  /**
   * Whose it is.
   */
  attribution: string;
  /**
   * Where its owner says more.
   */
  link: string | null;
  /**
   * How much of the paper is covered, 0 to 1.
   */
  opacity: number;
  /**
   * Its address, or its bytes as one.
   */
  address: string;
  /**
   * Pieces along each side.
   */
  cells: number;
  /**
   * Positions of the corners of the pieces in map units, row by row from the top.
   */
  x: number[];
  /**
   * The same, upward.
   */
  y: number[];
}
/**
 * The frame around a far-off part, which is already moved there.
 */
export interface Inset {
  /**
   * Left, lower, right and upper edge in map units.
   *
   * @minItems 4
   * @maxItems 4
   */
  frame: [number, number, number, number];
  /**
   * Its name and scale.
   */
  label: string;
}
/**
 * Shared borders on a grid of whole numbers: each border is an arc that its areas refer to. In R flat vectors; in a page packed text, as src/core/packed-numbers.hpp says.
 */
export interface Topology {
  /**
   * Map position of column 0.
   */
  x0: number;
  /**
   * Map position of row 0.
   */
  y0: number;
  /**
   * Map units from one column or row to the next.
   */
  step: number;
  /**
   * Points of each arc, as steps.
   */
  arcs: string;
  /**
   * Of each layer of areas or lines by its id: the arcs of its features.
   */
  layers: {
    [k: string]: string;
  };
}
/**
 * Areas in the colours of their classes. With panels of shared steps the classes' words and colours are the layer's.
 */
export interface AreaLayer {
  /**
   * Kind of layer.
   */
  kind: "areas";
  /**
   * Names the layer within the plan; of areas and lines also its object in the topology.
   */
  id: string;
  /**
   * What a list of layers calls it; empty for one that it leaves out.
   */
  name: string;
  /**
   * Title in the legend; null where it has none.
   */
  legend: string | null;
  /**
   * A lesser line under the title.
   */
  legend_note: string | null;
  /**
   * How the layer stands at first; null for always and whole.
   */
  show: Show | null;
  /**
   * What follows the zoom; null for nothing.
   */
  zoomed: Zoomed | null;
  /**
   * Class of each area, counted from 1 in the order of the labels; 0 has no data.
   */
  class: number[];
  /**
   * How many areas each class has.
   */
  counts: number[];
  /**
   * The same as they are written.
   */
  count_labels: string[];
  /**
   * The entry of what has no value.
   */
  no_data: NoData;
  /**
   * Where each value lies between the least and the greatest of all panels, in thousandths; -1 for none.
   */
  share: number[] | null;
  /**
   * Items, counted from 0, that show the value of a whole which an earlier item shows too; they count in no number of the map. Null for none.
   */
  repeated: number[] | null;
  /**
   * Rank of each value from the highest; 0 for none.
   */
  rank: number[] | null;
  /**
   * Each value as it is written; null for none. In a page only where a table or bars show it.
   */
  values: (string | null)[] | null;
  /**
   * Each value as a number; null for none. In a page only where a table or bars show it.
   */
  numbers: (number | null)[] | null;
  /**
   * Label beside the pointer for each area.
   */
  hover: (string | null)[] | null;
  /**
   * Fields of a popup.
   */
  popup: Popup | null;
  /**
   * Words of each class.
   */
  labels: string[];
  /**
   * Colour of each class, as #RRGGBB
   */
  colours: string[];
  /**
   * Colour of borders, as #RRGGBB
   */
  outline: string;
  /**
   * Width of borders in CSS px; the most, where there is a spacing.
   */
  border: number;
  /**
   * Map units of land for each map unit of border, so that a renderer draws borders narrower, or not at all, where areas are small (border_width() in R, borderWidth() in the viewer); null: always as wide as `border`.
   */
  spacing: number | null;
  /**
   * Bars of the values.
   */
  histogram: Histogram | null;
  /**
   * The class with a hatch.
   */
  hatch: Hatch | null;
  /**
   * Of two variables how the legend's square is made.
   */
  square: Square | null;
  /**
   * Name of each area.
   */
  names: (string | null)[] | null;
  /**
   * Code of each area.
   */
  codes: (string | null)[] | null;
  /**
   * What the areas show in each panel; null where there is one map.
   */
  panels: AreaPanel[] | null;
  /**
   * How new values are taken; null where none are.
   */
  live: Live | null;
  /**
   * The larger unit that each area belongs to.
   */
  regions: (string | null)[] | null;
}
/**
 * How a layer stands at first.
 */
export interface Show {
  /**
   * True where a reader has to switch it on.
   */
  off: boolean;
  /**
   * How much of what lies below is covered, 0 to 1.
   */
  opacity: number;
  /**
   * The least and the greatest zoom at which it is shown; null for all.
   *
   * @minItems 2
   * @maxItems 2
   */
  zooms: [number, number] | null;
}
/**
 * What of a layer follows the zoom.
 */
export interface Zoomed {
  /**
   * How many times as large as on the whole map.
   */
  size: NumbersByZoom | null;
  /**
   * Widths in CSS pixels.
   */
  width: NumbersByZoom | null;
  /**
   * Dash and gap, in widths of the line.
   */
  dash: PairsByZoom | null;
}
/**
 * Values that follow the zoom: numbers.
 */
export interface NumbersByZoom {
  /**
   * Zooms, rising; 1 is the whole map.
   */
  zooms: number[];
  /**
   * A value for each zoom.
   */
  values: number[];
  /**
   * True where a value holds from its zoom on; else values go evenly from one to the next.
   */
  stepped: boolean;
}
/**
 * Values that follow the zoom: pairs, such as a dash and its gap.
 */
export interface PairsByZoom {
  /**
   * Zooms, rising; 1 is the whole map.
   */
  zooms: number[];
  /**
   * A value for each zoom.
   */
  values: number[][];
  /**
   * True where a value holds from its zoom on; else values go evenly from one to the next.
   */
  stepped: boolean;
}
/**
 * The entry of what has no value: class 0.
 */
export interface NoData {
  /**
   * Its words in the legend.
   */
  label: string;
  /**
   * Its colour, as #RRGGBB
   */
  colour: string;
  /**
   * How many features there are.
   */
  count: number;
  /**
   * The same as it is written.
   */
  count_label: string;
}
/**
 * Fields that a press on a feature shows.
 */
export interface Popup {
  /**
   * What stands before each field.
   */
  labels: string[];
  /**
   * How each field is shown.
   */
  kinds: ("text" | "link" | "picture")[];
  /**
   * For each field a text or an address for each feature; null where nothing is known.
   */
  fields: (string | null)[][];
  /**
   * Of links and pictures the words beside the address.
   */
  texts: ((string | null)[] | null)[] | null;
  /**
   * Of fields that show one number its value for each feature, at seven digits; null for other fields. In a page only where a table shows it.
   */
  numbers: ((number | null)[] | null)[] | null;
}
/**
 * Bars of the values in the colours of their classes.
 */
export interface Histogram {
  /**
   * Heights, 0 to 1 of the highest.
   */
  counts: number[];
  /**
   * Class of each bar; 0 for none.
   */
  class: number[];
  /**
   * Where inner breaks stand, 0 to 1 of the axis.
   */
  breaks: number[];
  /**
   * What stands at both ends of the axis.
   *
   * @minItems 2
   * @maxItems 2
   */
  ends: [string, string];
}
/**
 * The class whose areas carry a hatch instead of a colour.
 */
export interface Hatch {
  /**
   * Its class.
   */
  class: number;
  /**
   * Colour of the hatch, as #RRGGBB
   */
  colour: string;
}
/**
 * Two variables: classes run along the first one fastest.
 */
export interface Square {
  /**
   * Classes of each variable.
   */
  n: number;
  /**
   * Titles of the two sides.
   *
   * @minItems 2
   * @maxItems 2
   */
  titles: [string, string];
  /**
   * Breaks of the first variable as they are written.
   */
  first: string[];
  /**
   * Breaks of the second one.
   */
  second: string[];
  /**
   * Of both variables each value; null for none. In a page only where a table shows it.
   */
  numbers: (number | null)[][] | null;
  /**
   * Of both variables each value as it is written. In a page only where a table shows it.
   */
  texts: (string | null)[][] | null;
}
/**
 * What areas show in one panel.
 */
export interface AreaPanel {
  /**
   * Class of each area, counted from 1 in the order of the labels; 0 has no data.
   */
  class: number[];
  /**
   * How many areas each class has.
   */
  counts: number[];
  /**
   * The same as they are written.
   */
  count_labels: string[];
  /**
   * The entry of what has no value.
   */
  no_data: NoData;
  /**
   * Where each value lies between the least and the greatest of all panels, in thousandths; -1 for none.
   */
  share: number[] | null;
  /**
   * Rank of each value from the highest; 0 for none.
   */
  rank: number[] | null;
  /**
   * Each value as it is written; null for none. In a page only where a table or bars show it.
   */
  values: (string | null)[] | null;
  /**
   * Each value as a number; null for none. In a page only where a table or bars show it.
   */
  numbers: (number | null)[] | null;
  /**
   * Label beside the pointer for each area.
   */
  hover: (string | null)[] | null;
  /**
   * Fields of a popup.
   */
  popup: Popup | null;
  /**
   * Words of each class; null where the layer's hold.
   */
  labels: string[] | null;
  /**
   * Colour of each class, as #RRGGBB; null where the layer's hold.
   */
  colours: string[] | null;
  /**
   * Bars of the values; null where the layer's hold or there are none.
   */
  histogram: Histogram | null;
  /**
   * The class with a hatch; null where the layer's holds or there is none.
   */
  hatch: Hatch | null;
}
/**
 * How new values of a layer are classed and written.
 */
export interface Live {
  /**
   * Inner breaks, in the unit that is shown.
   */
  breaks: number[];
  /**
   * True where a break belongs to the class below it.
   */
  right: boolean;
  /**
   * True where values are fractions shown as percentages.
   */
  percent: boolean;
  /**
   * Decimals.
   */
  digits: number;
  /**
   * True where a value has more decimals when it would read as another class.
   */
  true: boolean;
  /**
   * True for a plus before what is above zero.
   */
  plus: boolean;
  /**
   * True for thousands marks.
   */
  grouped: boolean;
  /**
   * What stands after a number.
   */
  unit: string | null;
  /**
   * What stands in a text in place of a missing value, and ends it.
   */
  missing: string;
  /**
   * Label of each area, with U+E001 in place of the value.
   */
  hover: (string | null)[] | null;
  /**
   * Of each popup field what it says; null where the value is not in it.
   */
  fields: (LiveField | null)[];
}
/**
 * A popup field that the value stands in.
 */
export interface LiveField {
  /**
   * Text of each area, with U+E001 in place of the value.
   */
  texts: (string | null)[];
  /**
   * True where nothing else stands in it.
   */
  alone: boolean;
}
/**
 * Symbols on places, the largest first.
 */
export interface SymbolLayer {
  /**
   * Kind of layer.
   */
  kind: "symbols";
  /**
   * Names the layer within the plan; of areas and lines also its object in the topology.
   */
  id: string;
  /**
   * What a list of layers calls it; empty for one that it leaves out.
   */
  name: string;
  /**
   * Title in the legend; null where it has none.
   */
  legend: string | null;
  /**
   * A lesser line under the title.
   */
  legend_note: string | null;
  /**
   * How the layer stands at first; null for always and whole.
   */
  show: Show | null;
  /**
   * What follows the zoom; null for nothing.
   */
  zoomed: Zoomed | null;
  /**
   * Label beside the pointer for each feature.
   */
  hover: (string | null)[] | null;
  /**
   * Fields of a popup.
   */
  popup: Popup | null;
  /**
   * Positions in map units, rightward.
   */
  x: number[];
  /**
   * Positions in map units, upward.
   */
  y: number[];
  /**
   * Radius of each in map units; of other shapes that of the circle with their area.
   */
  r: number[];
  /**
   * Marks of the legend.
   */
  sizes: Sizes;
  /**
   * Classes that colour the symbols.
   */
  key: Key | null;
  /**
   * Colour where no key gives one, as #RRGGBB
   */
  colour: string;
  /**
   * How much of what lies below is covered, 0 to 1.
   */
  opacity: number;
  /**
   * Colour of the rim, as #RRGGBB
   */
  rim: string;
  /**
   * True where many are drawn as counted circles until the reader comes near.
   */
  group: boolean;
  /**
   * True where all are of one size: the legend names them, with the one mark of `sizes`.
   */
  plain: boolean;
  /**
   * Panel of each, counted from 1; null where all are in every panel.
   */
  panel: number[] | null;
  /**
   * Corners of the shape; null for a circle.
   */
  outline: Outline | null;
  /**
   * Bars instead of shapes.
   */
  bar: Bar | null;
  /**
   * The right halves of split circles.
   */
  second: Second | null;
  /**
   * Where symbols that were moved apart belong; a line leads there.
   */
  from: Places | null;
  /**
   * Name of each symbol, then of rows without one; codes, texts and values in the same order.
   */
  names: (string | null)[] | null;
  /**
   * Code of each symbol.
   */
  codes: (string | null)[] | null;
  /**
   * The larger unit that each symbol belongs to.
   */
  regions: (string | null)[] | null;
  /**
   * Each value as it is written; null for none. In a page only where a table or bars show it.
   */
  values: (string | null)[] | null;
  /**
   * Each value as a number; null for none. In a page only where a table or bars show it.
   */
  numbers: (number | null)[] | null;
}
/**
 * Marks of a legend of sizes.
 */
export interface Sizes {
  /**
   * Words of each mark.
   */
  labels: string[];
  /**
   * Radius of each mark in map units.
   */
  r: number[];
}
/**
 * Classes of the column that colours symbols or lines.
 */
export interface Key {
  /**
   * Title.
   */
  legend: string;
  /**
   * Class of each feature; 0 for no data.
   */
  class: number[];
  /**
   * Words of each class.
   */
  labels: string[];
  /**
   * Colour of each class, as #RRGGBB
   */
  colours: string[];
  /**
   * How many features each class has, as it is written.
   */
  count_labels: string[];
  /**
   * The entry of what has no value.
   */
  no_data: NoData;
}
/**
 * Corners of a shape in units of the radius.
 */
export interface Outline {
  /**
   * Rightward.
   */
  x: number[];
  /**
   * Upward.
   */
  y: number[];
}
/**
 * Bars that stand on their places.
 */
export interface Bar {
  /**
   * Width in map units.
   */
  width: number;
  /**
   * Height of each in map units.
   */
  height: number[];
  /**
   * Heights of the legend's marks.
   */
  marks: number[];
}
/**
 * The other half of split circles.
 */
export interface Second {
  /**
   * Radius of each in map units.
   */
  r: number[];
  /**
   * Its colour, as #RRGGBB
   */
  colour: string;
  /**
   * Names of the two halves.
   *
   * @minItems 2
   * @maxItems 2
   */
  labels: [string, string];
}
/**
 * Positions in map units.
 */
export interface Places {
  /**
   * Rightward.
   */
  x: number[];
  /**
   * Upward.
   */
  y: number[];
}
/**
 * Lines.
 */
export interface LineLayer {
  /**
   * Kind of layer.
   */
  kind: "lines";
  /**
   * Names the layer within the plan; of areas and lines also its object in the topology.
   */
  id: string;
  /**
   * What a list of layers calls it; empty for one that it leaves out.
   */
  name: string;
  /**
   * Title in the legend; null where it has none.
   */
  legend: string | null;
  /**
   * A lesser line under the title.
   */
  legend_note: string | null;
  /**
   * How the layer stands at first; null for always and whole.
   */
  show: Show | null;
  /**
   * What follows the zoom; null for nothing.
   */
  zoomed: Zoomed | null;
  /**
   * Label beside the pointer for each feature.
   */
  hover: (string | null)[] | null;
  /**
   * Fields of a popup.
   */
  popup: Popup | null;
  /**
   * Colour where no key gives one, as #RRGGBB
   */
  colour: string;
  /**
   * Width in CSS pixels: one for all lines, or one for each, 0 where it is not drawn.
   */
  width: number[];
  /**
   * Marks of the legend where a column sets the widths.
   */
  widths: Widths | null;
  /**
   * Dash and gap, in widths of the line; null for solid lines.
   *
   * @minItems 2
   * @maxItems 2
   */
  dash: [number, number] | null;
  /**
   * Colour of a wider line below, as #RRGGBB
   */
  casing: string | null;
  /**
   * True for an arrow at the end.
   */
  arrow: boolean;
  /**
   * Classes that colour the lines.
   */
  key: Key | null;
  /**
   * Name of each line.
   */
  names: (string | null)[] | null;
  /**
   * Code of each line.
   */
  codes: (string | null)[] | null;
  /**
   * The larger unit that each line belongs to.
   */
  regions: (string | null)[] | null;
}
/**
 * Marks of a legend of widths.
 */
export interface Widths {
  /**
   * Words of each mark.
   */
  labels: string[];
  /**
   * Width of each mark in CSS pixels.
   */
  width: number[];
}
/**
 * How densely points lie, in classes.
 */
export interface DensityLayer {
  /**
   * Kind of layer.
   */
  kind: "density";
  /**
   * Names the layer within the plan; of areas and lines also its object in the topology.
   */
  id: string;
  /**
   * What a list of layers calls it; empty for one that it leaves out.
   */
  name: string;
  /**
   * Title in the legend; null where it has none.
   */
  legend: string | null;
  /**
   * A lesser line under the title.
   */
  legend_note: string | null;
  /**
   * How the layer stands at first; null for always and whole.
   */
  show: Show | null;
  /**
   * What follows the zoom; null for nothing.
   */
  zoomed: Zoomed | null;
  /**
   * Label beside the pointer for each feature.
   */
  hover: (string | null)[] | null;
  /**
   * Fields of a popup.
   */
  popup: Popup | null;
  /**
   * Words of each class.
   */
  labels: string[];
  /**
   * Colour of each class, as #RRGGBB
   */
  colours: string[];
  /**
   * How much of what lies below is covered, 0 to 1.
   */
  opacity: number;
  /**
   * The surface.
   */
  grid: Grid;
}
/**
 * Classes of the cells of a grid, as runs of equal ones, row by row from below.
 */
export interface Grid {
  /**
   * Left edge in map units.
   */
  x0: number;
  /**
   * Lower edge in map units.
   */
  y0: number;
  /**
   * Side of a cell in map units.
   */
  cell: number;
  /**
   * Cells in a row.
   */
  columns: number;
  /**
   * Rows.
   */
  rows: number;
  /**
   * Lengths of the runs.
   */
  runs: number[];
  /**
   * Class of each run; 0 is not drawn.
   */
  class: number[];
}
/**
 * Points whose surface is made at each zoom.
 */
export interface HeatLayer {
  /**
   * Kind of layer.
   */
  kind: "heat";
  /**
   * Names the layer within the plan; of areas and lines also its object in the topology.
   */
  id: string;
  /**
   * What a list of layers calls it; empty for one that it leaves out.
   */
  name: string;
  /**
   * Title in the legend; null where it has none.
   */
  legend: string | null;
  /**
   * A lesser line under the title.
   */
  legend_note: string | null;
  /**
   * How the layer stands at first; null for always and whole.
   */
  show: Show | null;
  /**
   * What follows the zoom; null for nothing.
   */
  zoomed: Zoomed | null;
  /**
   * Label beside the pointer for each feature.
   */
  hover: (string | null)[] | null;
  /**
   * Fields of a popup.
   */
  popup: Popup | null;
  /**
   * Positions in map units, rightward.
   */
  x: number[];
  /**
   * Positions in map units, upward.
   */
  y: number[];
  /**
   * Weight of each point; null where all count alike.
   */
  weight: number[] | null;
  /**
   * Radius of a point in CSS pixels.
   */
  radius: number;
  /**
   * Words at both ends of the colours.
   */
  labels: string[];
  /**
   * Colours from the least to the most, as #RRGGBB
   */
  colours: string[];
  /**
   * How much of what lies below is covered, 0 to 1.
   */
  opacity: number;
}
/**
 * Words on the map. Which find room depends on the size of the picture.
 */
export interface NamesLayer {
  /**
   * Kind of layer.
   */
  kind: "labels";
  /**
   * Names the layer within the plan; of areas and lines also its object in the topology.
   */
  id: string;
  /**
   * What a list of layers calls it; empty for one that it leaves out.
   */
  name: string;
  /**
   * Title in the legend; null where it has none.
   */
  legend: string | null;
  /**
   * A lesser line under the title.
   */
  legend_note: string | null;
  /**
   * How the layer stands at first; null for always and whole.
   */
  show: Show | null;
  /**
   * What follows the zoom; null for nothing.
   */
  zoomed: Zoomed | null;
  /**
   * Label beside the pointer for each feature.
   */
  hover: (string | null)[] | null;
  /**
   * Fields of a popup.
   */
  popup: Popup | null;
  /**
   * Positions in map units, rightward.
   */
  x: number[];
  /**
   * Positions in map units, upward.
   */
  y: number[];
  /**
   * What is written, the most important first.
   */
  text: string[];
  /**
   * Radius of the symbol that each keeps clear of, in map units.
   */
  r: number[];
  /**
   * Size of the letters as a multiple of the running text.
   */
  scale: number;
  /**
   * Colour of the letters, as #RRGGBB
   */
  colour: string;
  /**
   * Colour around the letters, as #RRGGBB; null for none.
   */
  halo: string | null;
  /**
   * True for bold letters.
   */
  bold: boolean;
  /**
   * True where a label stands on its place, not beside it.
   */
  centred: boolean;
  /**
   * Colours in use on what lies under the labels.
   */
  inks: string[] | null;
  /**
   * The halo of each ink; null for none.
   */
  halos: string[] | null;
  /**
   * For each panel which ink each label has, counted from 0.
   */
  ink: number[][] | null;
  /**
   * The layer under each label, counted from 0; -1 for none. Where that is not shown, the plain colour holds.
   */
  over: number[] | null;
}
/**
 * Squares of the map in levels: pictures, below them shapes and words, each in a file.
 */
export interface Sections {
  /**
   * Which of the layers, counted from 0.
   */
  layer: number;
  /**
   * How many areas it has, as written.
   */
  areas: string;
  /**
   * How many of them have a rank, in each panel.
   */
  ranked: number[];
  /**
   * The square of level 0: left, lower, right and upper edge in map units.
   */
  box: number[];
  /**
   * Cells across a picture.
   */
  cells: number;
  /**
   * As many classes as any panel has.
   */
  classes: number;
  /**
   * Of each panel the picture of level 0, as src/core/section-tree.hpp packs it.
   */
  picture: string[];
  /**
   * Of each section.
   */
  level: number[];
  /**
   * Of each section, counted from the west.
   */
  column: number[];
  /**
   * Of each section, counted from the south.
   */
  row: number[];
  /**
   * Of each section: 1 a picture, 2 shapes, 3 shapes with all their corners.
   */
  kind: number[];
  /**
   * Of each section what its file is called by: level-column-row-hash.js
   */
  hash: string[];
  /**
   * Where the files lie, beside the page.
   */
  folder: string;
  /**
   * The file beside the page that has all rows; null where there is none.
   */
  table: string | null;
  /**
   * What a search finds; null where there is none.
   */
  names: SectionNames | null;
}
/**
 * Names and codes in the order of their plain forms, in files names-number-hash.js.
 */
export interface SectionNames {
  /**
   * Of each file the plain form that it begins with.
   */
  from: string[];
  /**
   * Of each file the last part of its name.
   */
  hash: string[];
}
