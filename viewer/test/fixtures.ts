// A small plan for the tests of the viewer: areas with an enclave, a line, two symbols.
import type { AreaLayer, Plan, Topology } from "../src/plan";
import { VERSION } from "../src/plan-fields";

// What every layer may leave open.
export const bare = {
  legend: null,
  legend_note: null,
  show: null,
  zoomed: null,
  hover: null,
  popup: null,
};

// Whole numbers as packed text, as src/core/packed-numbers.hpp says.
export function pack(values: number[]): string {
  const letter = (digit: number) => {
    const code = 35 + digit + (35 + digit >= 60 ? 1 : 0);
    return String.fromCharCode(code + (code >= 92 ? 1 : 0));
  };
  return values
    .map((value) => {
      let [text, rest] = ["", value];
      for (; rest >= 60; rest = Math.floor(rest / 30)) text += letter(60 + (rest % 30));
      return text + letter(rest);
    })
    .join("");
}
export const sign = (v: number): number => (v < 0 ? -2 * v - 1 : 2 * v);

// A square with a hole that an enclave fills; the hole's arc is used by both, once backwards.
const arcs = [
  [0, 0, 10, 0, 0, 10, -10, 0, 0, -10],
  [4, 4, 0, 2, 2, 0, 0, -2, -2, 0],
  [20, 0, 5, 5],
];
export const topology: Topology = {
  x0: 100,
  y0: -50,
  step: 10,
  arcs: pack(arcs.flatMap((run) => [run.length / 2, ...run.map(sign)])),
  layers: {
    // Two rings of an arc each; one ring of the second arc backwards; nothing.
    areas: pack([1, 2, 1, 2 * sign(0), 1, 2 * sign(1), 1, 1, 1, 2 * sign(0) + 1, 0]),
    lines: pack([2, 1, 1, 2 * sign(2)]),
  },
};
export const areas: AreaLayer = {
  ...bare,
  kind: "areas",
  id: "areas",
  name: "L",
  share: null,
  rank: null,
  repeated: null,
  values: null,
  numbers: null,
  histogram: null,
  hatch: null,
  square: null,
  panels: null,
  names: null,
  codes: null,
  regions: null,
  live: null,
  legend: "L",
  hover: ["outer", "enclave", "none"],
  class: [1, 2, 0],
  colours: ["#111111", "#222222"],
  labels: ["a", "b"],
  counts: [1, 1],
  count_labels: ["1", "1"],
  outline: "#ffffff",
  border: 0.75,
  spacing: null,
  no_data: { label: "No data", colour: "#cccccc", count: 1, count_label: "0" },
};
export const payload: Plan = {
  version: VERSION,
  ground: "light",
  inks: {
    ground: "#ffffff",
    text: "#000000",
    soft: "#555555",
    faint: "#999999",
    line: "#333333",
    rim: "#ffffff",
  },
  style: { legend: { place: null, counts: true, histogram: false } },
  panels: null,
  words: {},
  marks: { decimal: ".", thousands: "," },
  dark: null,
  projection: { name: "web Mercator", lon0: 0, lat0: 0, lat1: 0, lat2: 0 },
  page: {
    hover: "pointer",
    click: "popup",
    search: false,
    layers: false,
    bars: 0,
    table: false,
    download: false,
    tools: [],
    places: null,
    cards: null,
    zooms: [1, 64],
    view: null,
    live: null,
    scale_bar: false,
    locator: false,
  },
  backdrops: [],
  overlays: [],
  insets: [],
  locale: "en",
  alt: "A",
  title: "T",
  source_link: null,
  subtitle: null,
  source: null,
  note: null,
  frame: [100, -50, 350, 50],
  topology,
  sections: null,
  layers: [
    areas,
    {
      ...bare,
      kind: "lines",
      names: null,
      codes: null,
      regions: null,
      id: "lines",
      name: "l",
      arrow: false,
      hover: ["ferry"],
      colour: "#000000",
      width: [1],
      widths: null,
      casing: null,
      key: null,
      dash: null,
    },
    {
      ...bare,
      kind: "symbols",
      names: null,
      codes: null,
      regions: null,
      values: null,
      numbers: null,
      key: null,
      group: false,
      plain: false,
      panel: null,
      outline: null,
      bar: null,
      second: null,
      from: null,
      id: "s",
      name: "s",
      opacity: 1,
      rim: "#ffffff",
      hover: ["large", "small"],
      x: [120, 121],
      y: [-30, -30],
      r: [8, 2],
      colour: "#333333",
      sizes: { labels: [], r: [] },
    },
  ],
};
