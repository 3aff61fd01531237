import assert from "node:assert/strict";
import { test } from "node:test";
import { Camera } from "../src/camera";

const near = (a: number, b: number, slack = 1e-6) =>
  assert.ok(Math.abs(a - b) <= slack, `${a} is not ${b}`);
// A seeded generator, so that a failure can be repeated.
const random = (() => {
  let s = 1;
  return () => (s = (s * 48271) % 2147483647) / 2147483647;
})();

test("screen and map positions undo each other wherever the reader went", () => {
  for (let i = 0; i < 200; i++) {
    const camera = new Camera([-500 * random(), -10, 900, 40 + 2000 * random()]);
    camera.resize(200 + 1500 * random(), 150 + 900 * random());
    camera.reset();
    for (let k = 0; k < 5; k++) {
      camera.zoomAt(0.3 + 3 * random(), camera.width * random(), camera.height * random());
      camera.panBy(600 * (random() - 0.5), 600 * (random() - 0.5));
    }
    const [px, py] = [camera.width * random(), camera.height * random()];
    const [x, y] = camera.toScreen(...camera.toMap(px, py));
    near(x, px);
    near(y, py);
  }
});

test("zooming keeps the place under the pointer, and the map never leaves the view", () => {
  const camera = new Camera([0, 0, 1000, 500], 0);
  camera.resize(1000, 500);
  camera.reset();
  const before = camera.toMap(700, 200);
  camera.zoomAt(4, 700, 200);
  const after = camera.toMap(700, 200);
  near(before[0], after[0]);
  near(before[1], after[1]);
  camera.panBy(1e6, -1e6);
  const [left, top] = camera.toScreen(0, 500);
  const [right, bottom] = camera.toScreen(1000, 0);
  assert.ok(left <= 350 + 1e-6 && top <= 175 + 1e-6 && right >= 650 - 1e-6 && bottom >= 325 - 1e-6);
  // Fingers that open step by step keep the place between them, also near an edge and in a view
  // of another shape.
  const phone = new Camera([0, 0, 1000, 500]);
  phone.resize(366, 330);
  phone.reset();
  const held = phone.toMap(290, 110);
  for (let i = 0; i < 12; i++) phone.zoomAt(1.14, 290, 110);
  const kept = phone.toMap(290, 110);
  near(held[0], kept[0]);
  near(held[1], kept[1]);
});

test("the home view holds the whole frame and zoom has an end at both sides", () => {
  const camera = new Camera([0, 0, 1000, 10]);
  camera.resize(320, 480);
  camera.reset();
  for (const [x, y] of [
    [0, 0],
    [1000, 10],
  ] as const) {
    const [px, py] = camera.toScreen(x, y);
    assert.ok(px >= 0 && px <= 320 && py >= 0 && py <= 480);
  }
  for (let i = 0; i < 50; i++) camera.zoomAt(0.5);
  near(camera.zoom, 1);
  for (let i = 0; i < 50; i++) camera.zoomAt(2);
  near(camera.zoom, 64);
});

test("resizing keeps the zoom", () => {
  const camera = new Camera([0, 0, 100, 100]);
  camera.resize(400, 400);
  camera.reset();
  camera.zoomAt(3);
  camera.resize(800, 300);
  near(camera.zoom, 3);
});
