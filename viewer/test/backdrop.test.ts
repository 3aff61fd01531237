// Numbers behind backdrops, places, heat and zoom: properties over random input, and known answers.
import { add, entry } from "../src/entry";
import assert from "node:assert/strict";
import { test } from "node:test";
import { cellsIn, levelFor, tileAddress } from "../src/backdrop";
import { fullest, shades, spread } from "../src/heat";
import type { HeatLayer, TileBackdrop, TileLevel } from "../src/plan";
import { placeAddress, readPlaces } from "../src/places";
import { PointIndex } from "../src/point-index";
import { atZoom } from "../src/zoom";

const EDGE = Math.PI * 6378137;
const level = (z: number): TileLevel => ({
  id: String(z),
  metres: (2 * EDGE) / 2 ** z / 256,
  x: -EDGE,
  y: EDGE,
  width: 256,
  height: 256,
  columns: 2 ** z,
  rows: 2 ** z,
  up: false,
  around: true,
});
let seed = 11;
const random = (): number => (seed = (seed * 48271) % 2147483647) / 2147483647;

test("the cells of a view hold every place of it, and none that touches it not", () => {
  for (let k = 0; k < 500; k++) {
    const l = level(Math.floor(random() * 12));
    const side = l.metres * 256;
    const [x, y] = [(random() - 0.5) * 2.4 * EDGE, (random() - 0.5) * 1.8 * EDGE];
    const [w, h] = [random() * 4 * side, random() * 4 * side];
    const { columns, rows } = cellsIn(l, [x, y, x + w, y + h]);
    for (const [px, py] of [
      [x, y],
      [x + w, y + h],
      [x + random() * w, y + random() * h],
    ] as const) {
      const [c, r] = [Math.floor((px + EDGE) / side), Math.floor((EDGE - py) / side)];
      if (r < 0 || r >= l.rows) continue;
      assert.ok(c >= columns[0] && c <= columns[1] && r >= rows[0] && r <= rows[1]);
    }
    assert.ok(columns[1] - columns[0] <= Math.ceil(w / side) + 1);
  }
  // A set that ends gives nothing beyond its end.
  const ends = { ...level(3), around: false, columns: 2, rows: 2 };
  assert.deepEqual(cellsIn(ends, [EDGE / 2, -EDGE / 2, EDGE, 0]), {
    columns: [0, -1],
    rows: [0, -1],
  });
  assert.deepEqual(cellsIn(ends, [-EDGE, -EDGE, EDGE, EDGE]), { columns: [0, 1], rows: [0, 1] });
});

test("addresses go around the globe, count rows from either side, and encode the level", () => {
  const b = (url: string): TileBackdrop => ({
    kind: "tiles",
    name: "n",
    attribution: "a",
    link: null,
    opacity: 1,
    url,
    levels: [],
  });
  assert.equal(tileAddress(b("https://t/{z}/{x}/{y}"), level(3), -1, 2), "https://t/3/7/2");
  assert.equal(tileAddress(b("https://t/{z}/{x}/{y}?{x}"), level(3), 9, 2), "https://t/3/1/2?1");
  assert.equal(
    tileAddress(b("https://t/{y}/{x}/{z}"), { ...level(3), up: true, id: "a b/{x}" }, 1, 2),
    "https://t/5/1/a%20b%2F%7Bx%7D",
  );
  const levels = [0, 1, 2, 3, 4].map(level);
  assert.equal(levelFor(levels, level(2).metres * 1.3), 2);
  assert.equal(levelFor(levels, level(2).metres * 1.5), 1);
  assert.equal(levelFor(levels, level(9).metres), 4);
});

test("values by zoom pass through what is given, keep between their neighbours", () => {
  const even = { zooms: [1, 4, 16], values: [1, 3, 2], stepped: false };
  assert.deepEqual(
    [0.5, 1, 2, 4, 8, 16, 64].map((z) => atZoom(even, z, 9)),
    [1, 1, 2, 3, 2.5, 2, 2],
  );
  assert.deepEqual(
    [1, 3.9, 4, 15, 16].map((z) => atZoom({ ...even, stepped: true }, z, 9)),
    [1, 1, 3, 3, 2],
  );
  assert.deepEqual(
    atZoom(
      {
        zooms: [1, 4],
        values: [
          [0, 2],
          [4, 4],
        ],
        stepped: false,
      },
      2,
      [0, 0],
    ),
    [2, 3],
  );
  assert.equal(atZoom(null, 3, 9), 9);
});

test("an index of points finds the last one that a search through all finds", () => {
  for (const n of [1, 7, 3000]) {
    const xs = Array.from({ length: n }, () => Math.round(random() * 1000)),
      ys = xs.map(() => Math.round(random() * 300));
    const index = new PointIndex(xs, ys);
    for (let k = 0; k < 400; k++) {
      const [x, y, reach] = [random() * 1200 - 100, random() * 400 - 50, random() * 60];
      const near = (i: number) => Math.hypot(entry(xs, i) - x, entry(ys, i) - y) <= reach;
      let last = -1;
      for (let i = 0; i < n; i++) if (near(i)) last = i;
      assert.equal(index.last(x, y, reach, near), last);
    }
  }
  assert.equal(
    new PointIndex([], []).last(0, 0, 5, () => true),
    -1,
  );
});

test("heat is the sum of kernels, wherever the points lie on the grid", () => {
  const [columns, rows, radius] = [40, 30, 6.5];
  const weights = new Float32Array(columns * rows);
  const points = Array.from({ length: 25 }, () => ({
    x: Math.floor(random() * columns),
    y: Math.floor(random() * rows),
    w: 1 + Math.floor(random() * 4),
  }));
  for (const { x, y, w } of points) add(weights, y * columns + x, w);
  const out = spread(weights, columns, rows, radius);
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < columns; x++) {
      const sum = points.reduce(
        (s, p) => s + p.w * Math.max(0, 1 - ((x - p.x) ** 2 + (y - p.y) ** 2) / radius ** 2) ** 2,
        0,
      );
      assert.ok(Math.abs(entry(out, y * columns + x) - sum) < 1e-4);
    }
  const layer = { x: [1, 2, 50], y: [1, 2, 50], weight: [2, 3, 4] } as unknown as HeatLayer;
  assert.ok(Math.abs(fullest(layer, 10) - (5 * Math.PI) / 3) < 1e-9);
  const ramp = shades(["#000000", "#FF0000"]);
  assert.equal(ramp[0], 0);
  assert.equal(entry(ramp, 255) >>> 0, 0xff0000ff);
  for (let i = 1; i < 256; i++)
    assert.ok(entry(ramp, i) >>> 24 >= entry(ramp, i - 1) >>> 24, "rises");
});

test("questions keep the service's own parameters, and answers are trusted in nothing", () => {
  assert.equal(
    placeAddress("https://p.example/find?key=1", "a b&c=ü", "de"),
    "https://p.example/find?key=1&q=a+b%26c%3D%C3%BC&lang=de&limit=8",
  );
  assert.equal(
    new URL(placeAddress("https://p.example/", "x".repeat(5000), "en")).searchParams.get("q")
      ?.length,
    200,
  );
  assert.deepEqual(
    readPlaces({
      places: [
        { name: " A ", lon: 1, lat: 2, box: [0, 1, 2, 3], context: 5 },
        { name: "B", lon: NaN, lat: 0 },
        { name: "C", lon: 0, lat: 91 },
        "D",
        null,
        { name: "__proto__", lon: 0, lat: 0, box: [0, 0, 0, 95] },
      ],
    }),
    [
      { name: "A", context: null, lon: 1, lat: 2, box: [0, 1, 2, 3] },
      { name: "__proto__", context: null, lon: 0, lat: 0, box: null },
    ],
  );
  for (const bad of [null, 5, "x", {}, { places: "x" }, []]) assert.throws(() => readPlaces(bad));
  assert.equal(
    readPlaces({ places: Array.from({ length: 99 }, (_, i) => ({ name: `${i}`, lon: 0, lat: 0 })) })
      .length,
    8,
  );
});
