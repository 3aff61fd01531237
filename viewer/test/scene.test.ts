import { entry } from "../src/entry";
import assert from "node:assert/strict";
import { test } from "node:test";
import {
  contains,
  decodeArcs,
  decodeFeatures,
  decodeNet,
  distanceTo,
  type Feature,
} from "../src/geometry";
import { placeBox } from "../src/panels";
import { unpack } from "../src/columns";
import { BoxIndex, Scene } from "../src/scene";
import { MapState } from "../src/state";
import { atOnce } from "../src/work";
import { pack, payload, sign, topology } from "./fixtures";

const featuresOf = (layer: string): Feature[] =>
  atOnce(decodeFeatures(atOnce(decodeNet(topology, layer)), atOnce(decodeArcs(topology))));

test("arcs are decoded from deltas and run backwards where the sign says so", () => {
  const arcs = atOnce(decodeArcs(topology));
  assert.deepEqual([...entry(arcs, 0)], [100, -50, 200, -50, 200, 50, 100, 50, 100, -50]);
  const features = featuresOf("areas");
  assert.deepEqual(
    [...entry(entry(features, 1).rings, 0)],
    [140, -10, 160, -10, 160, 10, 140, 10, 140, -10],
  );
  assert.deepEqual(entry(features, 0).box, [100, -50, 200, 50]);
  assert.deepEqual(entry(features, 2).rings, []);
});

test("a point in the hole belongs to the enclave, and to nobody else", () => {
  const features = featuresOf("areas");
  assert.deepEqual(
    features.map((f) => contains(f, 150, 0)),
    [false, true, false],
  );
  assert.deepEqual(
    features.map((f) => contains(f, 110, 0)),
    [true, false, false],
  );
  assert.deepEqual(
    features.map((f) => contains(f, 250, 0)),
    [false, false, false],
  );
});

test("the topmost thing is found: the small symbol over the large, then lines, then areas", () => {
  const scene = new Scene(payload);
  const state = new MapState(payload);
  const find = (x: number, y: number) => scene.find(x, y, 1, 1, state);
  assert.deepEqual(find(121, -30), { layer: 2, item: 1 });
  assert.deepEqual(find(115, -30), { layer: 2, item: 0 });
  assert.deepEqual(find(325, -26), { layer: 1, item: 0 });
  assert.deepEqual(find(150, 0), { layer: 0, item: 1 });
  assert.equal(find(260, 40), null);
  // Zoomed in four times symbols keep their pixels, so they cover less of the map.
  assert.deepEqual(scene.find(115, -30, 0.25, 1, state), { layer: 0, item: 0 });
});

test("the index gives every box that holds the point", () => {
  let s = 7;
  const random = () => (s = (s * 48271) % 2147483647) / 2147483647;
  const boxes = Array.from({ length: 400 }, (): [number, number, number, number] => {
    const [x, y, w, h] = [1000 * random(), 600 * random(), 80 * random(), 80 * random()];
    return [x, y, x + w, y + h];
  });
  const index = atOnce(BoxIndex.of(boxes));
  for (let k = 0; k < 500; k++) {
    const [x, y] = [1100 * random() - 20, 700 * random() - 20];
    const found = new Set(index.at(x, y));
    boxes.forEach((b, i) => {
      if (x >= b[0] && x <= b[2] && y >= b[1] && y <= b[3]) assert.ok(found.has(i));
    });
  }
});

test("distance to a line is that to its nearest segment", () => {
  const line = entry(featuresOf("lines"), 0);
  assert.equal(distanceTo(line, 300, -60), 10);
  assert.ok(Math.abs(distanceTo(line, 325, -25)) < 1e-9);
});

test("labels stay inside the stage for any pointer and any size that fits", () => {
  for (const [w, h] of [
    [40, 20],
    [300, 180],
  ] as const) {
    for (let px = 0; px <= 320; px += 10) {
      for (let py = 0; py <= 200; py += 10) {
        const [x, y] = placeBox([px, py], [w, h], [320, 200]);
        assert.ok(x >= 0 && y >= 0 && x + w <= 320 && y + h <= 200);
      }
    }
  }
});

test("columns are made as the page says: packed, in words, together, ranked, mended", () => {
  const number = (v: number | null) => (v === null ? 0 : 1 + sign(v));
  const given = {
    packed: 1,
    columns: [
      { packed: pack([12345, null, -5, 12345].map(number)), decimals: 1 },
      {
        written: 0,
        decimals: 1,
        grouped: true,
        before: "~",
        after: " %",
        width: 0,
        missing: "none",
      },
      ["A", "B", null, "D"],
      { pieces: ["<", ": ", ">"], of: [2, 1], missing: "?", but: { rows: [3], values: ["odd"] } },
      { ranked: 0 },
      { placed: 0, from: -0.5, to: 1234.5 },
      {
        written: 0,
        decimals: 0,
        grouped: false,
        before: "",
        after: "",
        width: 6,
        missing: null,
      },
    ],
    plan: {
      marks: { decimal: ",", thousands: "." },
      all: [0, 1, 2, 3, 4, 5].map((column) => ({ column })),
    },
  };
  const { all } = unpack(given) as { all: unknown[][] };
  assert.deepEqual(all[0], [1234.5, null, -0.5, 1234.5]);
  assert.deepEqual(all[1], ["~1.234,5 %", "none", "~\u22120,5 %", "~1.234,5 %"]);
  assert.deepEqual(all[3], ["<A: ~1.234,5 %>", "<B: none>", "<?", "odd"]);
  assert.deepEqual(all[4], [1, 0, 3, 1]);
  assert.deepEqual(all[5], [1000, -1, 0, 1000]);
  assert.equal(unpack(payload), payload);
  assert.throws(() => unpack({ ...given, packed: 9 }), /version 9/);
});
