import { entry } from "../src/entry";
import assert from "node:assert/strict";
import { test } from "node:test";
import { labelInk } from "../src/draw-labels";
import { area, distance, type Degrees } from "../src/geodesy";
import type { NamesLayer } from "../src/plan";
import type { MapState } from "../src/state";
import { writeMeasured, writeNumber } from "../src/words";

// Rings, square kilometres and kilometres round them, by another program for geodesics (Karney,
// C.F.F. 2013, Algorithms for geodesics, Journal of Geodesy 87, 43-55).
const known: [Degrees[], number, number][] = [
  [
    [
      [8, 47],
      [9, 47],
      [9.4, 48],
      [7.9, 47.6],
    ],
    8144.694768,
    379.229735,
  ],
  [
    [
      [-40, 45],
      [-38, 45.2],
      [-38.3, 47.5],
      [-40.4, 47.1],
    ],
    39589.408883,
    816.066771,
  ],
  [
    [
      [170, -20],
      [-170, -18],
      [-175, -5],
      [172, -8],
    ],
    2543296.846689,
    6474.365043,
  ],
  [
    [
      [0, 70],
      [90, 72],
      [180, 68],
      [-90, 71],
    ],
    9879665.145335,
    12378.499072,
  ],
  [
    [
      [-5, -3],
      [60, 2],
      [50, 40],
      [-10, 35],
    ],
    29499218.524643,
    21055.428842,
  ],
  [
    [
      [10, 0.001],
      [10.002, 0],
      [10.0015, 0.0021],
      [10, 0.002],
    ],
    0.032004,
    0.765288,
  ],
];

test("areas and lengths are those of geodesics, also over 180 degrees and round a pole", () => {
  for (const [ring, km2, km] of known) {
    for (const turned of [ring, [...ring].reverse(), [...ring.slice(2), ...ring.slice(0, 2)]]) {
      assert.ok(
        Math.abs(area(turned) / 1e6 / km2 - 1) < (km > 2000 ? 4e-4 : 2e-5),
        `${area(turned) / 1e6} for ${km2}`,
      );
      const round = turned.reduce(
        (sum, p, i) => sum + distance(p, entry(turned, (i + 1) % turned.length)),
        0,
      );
      assert.ok(Math.abs(round / 1000 / km - 1) < 1e-6);
    }
  }
});

test("numbers are written as R writes them", () => {
  const de = { decimal: ",", thousands: "." };
  const pl = { decimal: ",", thousands: "\u00a0" };
  assert.deepEqual(
    [1234, 1234567.891, -0.004, -1234.5, 0].map((v) => writeNumber(v, 2, de)),
    ["1.234,00", "1.234.567,89", "0,00", "\u22121.234,50", "0,00"],
  );
  assert.deepEqual(
    [999, 1000, 12345].map((v) => writeNumber(v, 0, pl)),
    ["999", "1\u00a0000", "12\u00a0345"],
  );
  assert.deepEqual(
    [
      [8144.69, 30],
      [8144.69, 3],
      [0.032, 0.002],
      [12.3456, 0],
      [7, 50],
      [999.7, 1],
      [0, 1],
    ].map(([v = 0, give = 0]) => writeMeasured(v, give, de)),
    ["8.100", "8.140", "0,03", "12,35", "7", "1.000", "0"],
  );
});

test("a label takes the ink of the area under it while that is drawn", () => {
  const layer = {
    colour: "#111",
    halo: "#eee",
    over: [0, 0, -1],
    inks: ["#000", "#fff"],
    halos: ["#fff", null],
    ink: [
      [0, 1, 0],
      [1, 0, 0],
    ],
  } as unknown as NamesLayer;
  const state = (panel: number, shown: boolean) =>
    ({ panel, shownAt: () => shown }) as unknown as MapState;
  const inks = (panel: number, shown: boolean) =>
    [0, 1, 2].map((i) => labelInk(layer, i, state(panel, shown), 1));
  assert.deepEqual(inks(0, true), [
    ["#000", "#fff"],
    ["#fff", "#eee"],
    ["#111", "#eee"],
  ]);
  assert.deepEqual(inks(1, true), [
    ["#fff", "#eee"],
    ["#000", "#fff"],
    ["#111", "#eee"],
  ]);
  assert.deepEqual(inks(0, false), Array(3).fill(["#111", "#eee"]));
});
