import { entry } from "../src/entry";
import assert from "node:assert/strict";
import { test } from "node:test";
import { thinArcs } from "../src/geometry";
import { atOnce } from "../src/work";
import { cellSide, groupPoints, opens } from "../src/groups";
import { placeLabels, type Disc, type Wish } from "../src/labels";

const random = (() => {
  let s = 5;
  return () => (s = (s * 48271) % 2147483647) / 2147483647;
})();

test("no label lies on another, on a symbol or outside of the view", () => {
  for (let round = 0; round < 20; round++) {
    const wishes: Wish[] = [];
    const discs: Disc[] = [];
    for (let i = 0; i < 120; i++) {
      const r = 1 + 6 * random();
      const wish = {
        x: 600 * random(),
        y: 400 * random(),
        width: 15 + 70 * random(),
        height: 14,
        gap: i % 2 ? r + 2 : 0,
      };
      wishes.push(wish);
      if (i % 2) discs.push({ x: wish.x, y: wish.y, r });
    }
    const places = placeLabels(wishes, discs, 600, 400);
    const boxes = places.flatMap((at, i) =>
      at
        ? [
            {
              x0: at[0] - entry(wishes, i).width / 2,
              x1: at[0] + entry(wishes, i).width / 2,
              y0: at[1] - 7,
              y1: at[1] + 7,
            },
          ]
        : [],
    );
    assert.ok(boxes.length > 15);
    boxes.forEach((a, i) => {
      assert.ok(a.x0 >= 0 && a.y0 >= 0 && a.x1 <= 600 && a.y1 <= 400);
      for (const b of boxes.slice(0, i))
        assert.ok(
          a.x1 <= b.x0 + 1e-9 || b.x1 <= a.x0 + 1e-9 || a.y1 <= b.y0 + 1e-9 || b.y1 <= a.y0 + 1e-9,
        );
      for (const d of discs)
        assert.ok(
          Math.hypot(Math.max(a.x0 - d.x, 0, d.x - a.x1), Math.max(a.y0 - d.y, 0, d.y - a.y1)) >=
            d.r - 1e-9,
        );
    });
  }
});

test("coarser arcs keep their ends and stay near, and a ring keeps a triangle at least", () => {
  for (let round = 0; round < 50; round++) {
    const n = 3 + Math.floor(60 * random());
    const arc = Float64Array.from({ length: 2 * n }, () => 100 * random());
    const closed = round % 2 === 0;
    if (closed) arc.set(arc.slice(0, 2), 2 * n - 2);
    const thin = entry(atOnce(thinArcs([arc], 15)), 0);
    assert.deepEqual([...thin.slice(0, 2)], [...arc.slice(0, 2)]);
    assert.deepEqual([...thin.slice(-2)], [...arc.slice(-2)]);
    if (closed && n >= 4) assert.ok(thin.length >= 8);
    for (let i = 0; i < 2 * n; i += 2) {
      let near = Infinity;
      for (let k = 0; k < thin.length; k += 2)
        near = Math.min(
          near,
          Math.hypot(entry(arc, i) - entry(thin, k), entry(arc, i + 1) - entry(thin, k + 1)),
        );
      assert.ok(near < 15);
    }
  }
});

test("every point is in one group, groups keep still while the map moves", () => {
  const xs = Array.from({ length: 500 }, () => 1000 * random());
  const ys = Array.from({ length: 500 }, () => 600 * random());
  let before = 0;
  for (const zoom of [1, 1.2, 2, 5, 20, 64]) {
    const groups = groupPoints(xs, ys, (i) => i !== 7, cellSide(zoom, 1));
    assert.deepEqual(
      groups.flatMap((g) => g.items).sort((a, b) => a - b),
      xs.map((_, i) => i).filter((i) => i !== 7),
    );
    for (const g of groups) {
      const mean = (v: number[]) => g.items.reduce((s, i) => s + entry(v, i), 0) / g.items.length;
      assert.ok(Math.abs(g.x - mean(xs)) < 1e-6 && Math.abs(g.y - mean(ys)) < 1e-6);
      assert.ok(
        g.box[2] - g.box[0] <= cellSide(zoom, 1) && g.box[3] - g.box[1] <= cellSide(zoom, 1),
      );
    }
    assert.ok(groups.length >= before);
    before = groups.length;
  }
  assert.equal(cellSide(1.1, 1), cellSide(1.3, 1), "a little zoom changes nothing");
  assert.ok(
    !opens(
      entry(
        groupPoints([5, 5], [5, 5], () => true, 1),
        0,
      ),
    ),
    "one spot never opens",
  );
});
