// The address of a view, and the table for a spreadsheet.
import assert from "node:assert/strict";
import { test } from "node:test";
import { Camera } from "../src/camera";
import { csvText } from "../src/csv";
import { restoreView, viewText, withView } from "../src/share";
import { MapState } from "../src/state";
import { payload } from "./fixtures";

const plan = () => ({ ...structuredClone(payload), panels: ["May", "June", "July"] });
const looking = (): [Camera, MapState] => {
  const camera = new Camera([0, 0, 100, 50]);
  camera.resize(400, 300);
  return [camera, new MapState(plan())];
};

test("an address brings back all that a reader has set, of each map its own", () => {
  const [camera, state] = looking();
  camera.lookAt(40, 20, 3);
  state.setPanel(1);
  state.setHidden([1]);
  state.setOff([[0, [2, 0]]]);
  state.opacity[2] = 0.4;
  const text = viewText(camera, state, { layer: 0, item: 1 }, "one");
  const other = "two.view=0.1,0.1,1.0";
  const hash = withView(`#${other}&one.view=1,1,9`, text, "one");
  assert.ok(hash.includes(other) && !hash.includes("1,1,9"));
  const [again, now] = looking();
  const { found, chosen } = restoreView(hash, again, now, "one");
  assert.ok(found);
  assert.deepEqual([again.x, again.y, again.zoom].map(Math.round), [40, 20, 3]);
  assert.equal(now.panel, 1);
  assert.deepEqual([...now.hidden], [1]);
  assert.ok(now.isOff(0, 2) && now.isOff(0, 0) && !now.isOff(0, 1));
  assert.equal(now.opacity[2], 0.4);
  // Without a code or a name a thing has no address.
  assert.equal(chosen, null);
  assert.equal(viewText(again, now, null, "one"), text.replace(/&one\.chosen=[^&]*/, ""));
});

test("an address that is no view changes nothing", () => {
  for (const hash of ["", "#top", "#view=NaN,9e99,-1", "#view=%", "#view=1,2&hidden=99", "#view"]) {
    const [camera, state] = looking();
    const before = [camera.x, camera.y, camera.zoom];
    assert.equal(restoreView(hash, camera, state).found, false, hash);
    assert.deepEqual([camera.x, camera.y, camera.zoom], before);
  }
});

test("a table opens in a spreadsheet of its language, and runs nothing there", () => {
  const lines = [
    ["Name", "Wert"],
    ['A;B "C"', -1234.5],
    ["=cmd()", null],
    ["-12", 7],
  ];
  const german = csvText(lines, ",");
  assert.equal(german, '\ufeffName;Wert\r\n"A;B ""C""";-1234,5\r\n\'=cmd();\r\n\'-12;7\r\n');
  assert.ok(csvText(lines, ".").includes('"A;B ""C""",-1234.5'));
});
