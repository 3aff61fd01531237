// Vector tiles of the service, read by a decoder that knows nothing but the encoding's own
// description, against the features that the same service gives as GeoJSON.
import assert from "node:assert/strict";
import { createRequire } from "node:module";
import { before, test } from "node:test";
import { fileURLToPath } from "node:url";
import { serve } from "./served.mjs";

const require = createRequire(new URL("../../viewer/package.json", import.meta.url));
const protobuf = require("protobufjs");

// The encoding, as version 2.1 of its description has it.
const { root } = protobuf.parse(`syntax = "proto2";
message Tile {
  enum GeomType { UNKNOWN = 0; POINT = 1; LINESTRING = 2; POLYGON = 3; }
  message Value {
    optional string string_value = 1; optional float float_value = 2;
    optional double double_value = 3; optional int64 int_value = 4;
    optional uint64 uint_value = 5; optional sint64 sint_value = 6; optional bool bool_value = 7;
  }
  message Feature {
    optional uint64 id = 1; repeated uint32 tags = 2 [packed = true];
    optional GeomType type = 3; repeated uint32 geometry = 4 [packed = true];
  }
  message Layer {
    required uint32 version = 15; required string name = 1; repeated Feature features = 2;
    repeated string keys = 3; repeated Value values = 4; optional uint32 extent = 5;
  }
  repeated Layer layers = 3;
}`);
const Tile = root.lookupType("Tile");

const at = (path) => fileURLToPath(new URL(`../../inst/${path}`, import.meta.url));
let address;
before(async () => {
  const sheet = at("orvane/map.ochre.yml");
  const found = await serve([at("bin/ochre"), "serve", sheet, "--port", "0"], /http:\S+\//);
  address = found.match[0];
});

const json = async (path) => (await fetch(address + path)).json();
const collection = async (k) => (await json("collections")).collections[k];
async function tile(id, z, x, y) {
  const path = `collections/${id}/tiles/WebMercatorQuad/${z}/${y}/${x}`;
  const got = await fetch(address + path);
  assert.equal(got.status, 200);
  return Tile.decode(new Uint8Array(await got.arrayBuffer())).layers;
}

// Runs of points: kind of each by how it ends.
function runsOf(geometry) {
  const runs = [];
  let x = 0;
  let y = 0;
  for (let i = 0; i < geometry.length;) {
    const command = geometry[i] & 7;
    const count = geometry[i++] >> 3;
    if (command === 7) {
      assert.equal(count, 1);
      runs.at(-1).closed = true;
      continue;
    }
    assert.ok(command === 1 || command === 2);
    assert.ok(count > 0);
    for (let k = 0; k < count; ++k) {
      x += (geometry[i] >> 1) ^ -(geometry[i] & 1);
      y += (geometry[i + 1] >> 1) ^ -(geometry[i + 1] & 1);
      i += 2;
      if (command === 1) runs.push({ points: [[x, y]], closed: false });
      else {
        assert.notDeepEqual([x, y], runs.at(-1).points.at(-1));
        runs.at(-1).points.push([x, y]);
      }
    }
  }
  return runs;
}
const area = (points) =>
  points.reduce((sum, [x, y], i) => {
    const [u, v] = points[(i + 1) % points.length];
    return sum + x * v - u * y;
  }, 0) / 2;

const column = (lon, z) => Math.floor(((lon + 180) / 360) * 2 ** z);
const row = (lat, z) => {
  const s = Math.sin((lat * Math.PI) / 180);
  return Math.floor((0.5 - Math.log((1 + s) / (1 - s)) / (4 * Math.PI)) * 2 ** z);
};
function* around([west, south, east, north], z) {
  for (let x = column(west, z); x <= column(east, z); ++x)
    for (let y = row(north, z); y <= row(south, z); ++y) yield [x, y];
}

// The tiles where features begin.
function places(features, z) {
  const found = features.map(({ geometry }) => {
    const [lon, lat] = geometry.coordinates.flat(3);
    return [column(lon, z), row(lat, z)].join();
  });
  return [...new Set(found)].map((t) => t.split(",").map(Number));
}

test("tiles hold what the features say, in rings that run as the encoding asks", async () => {
  for (const k of [0, 1, 3]) {
    const one = await collection(k);
    const { features } = await json(`collections/${one.id}/items?limit=10000`);
    const seen = new Set();
    for (const z of [0, 4, 7, 9]) {
      for (const [x, y] of places(features, z)) {
        for (const layer of await tile(one.id, z, x, y)) {
          assert.equal(layer.version, 2);
          assert.equal(layer.extent, 4096);
          assert.equal(layer.name, one.id);
          assert.equal(new Set(layer.keys).size, layer.keys.length);
          for (const f of layer.features) {
            const said = {};
            for (let i = 0; i < f.tags.length; i += 2) {
              const value = layer.values[f.tags[i + 1]];
              // Each has one member; long whole numbers are objects.
              const [, content] = Object.entries(value)[0];
              said[layer.keys[f.tags[i]]] = typeof content === "object" ? Number(content) : content;
            }
            const own = Object.entries(features[Number(f.id) - 1].properties);
            assert.deepEqual(said, Object.fromEntries(own.filter(([, v]) => v !== null)));
            seen.add(Number(f.id));
            const runs = runsOf(f.geometry);
            assert.ok(runs.length > 0);
            assert.equal(f.type, [3, 2, 0, 1][k]);
            for (const run of runs) {
              assert.equal(run.closed, f.type === 3);
              for (const p of run.points) for (const v of p) assert.ok(v >= -64 && v <= 4160);
              if (f.type === 3) assert.notEqual(area(run.points), 0);
            }
            // A shell first, then its holes.
            if (f.type === 3) assert.ok(area(runs[0].points) > 0);
          }
        }
      }
    }
    // Places that the map leaves out are features all the same.
    assert.ok(seen.size >= features.length - 1);
  }
});

test("on every level borders are shared: areas leave no gap and do not overlap", async () => {
  const one = await collection(0);
  const box = one.extent.spatial.bbox[0];
  let whole = 0;
  for (const z of [5, 7, 8, 9, 10, 11]) {
    // Where four of five tiles are sea, a few on land are found by looking at all.
    for (const [x, y] of around(box, z)) {
      if (z > 9 && (7 * x + 13 * y) % 11) continue;
      const layers = await tile(one.id, z, x, y);
      if (!layers.length) continue;
      const edges = new Map();
      let sum = 0;
      for (const f of layers[0].features) {
        for (const { points } of runsOf(f.geometry)) {
          sum += area(points);
          points.forEach((p, i) => {
            const q = points[(i + 1) % points.length];
            const [a, b] = [p.join(), q.join()];
            // Along the edge of what is cut each area ends by itself.
            const cut = [0, 1].some((d) => p[d] === q[d] && (p[d] === -64 || p[d] === 4160));
            if (cut) return;
            const key = a < b ? `${a} ${b}` : `${b} ${a}`;
            edges.set(key, (edges.get(key) ?? 0) + (a < b ? 1 : -1));
          });
        }
      }
      // No edge runs the same way twice: what two areas share they run along in opposite ways.
      for (const n of edges.values()) assert.ok(Math.abs(n) <= 1);
      const coast = [...edges.values()].filter((n) => n !== 0).length;
      assert.ok(sum <= 4224 ** 2);
      if (coast === 0) {
        assert.equal(sum, 4224 ** 2);
        whole += 1;
      }
    }
  }
  assert.ok(whole >= 5, `${whole} tiles are land all over`);
});

test("areas of tiles lie where they are, and are as large", async () => {
  const one = await collection(0);
  const { features } = await json(`collections/${one.id}/items?limit=10000`);
  const units = (z) => (2 ** z * 4096) / 360;
  const mercator = ([lon, lat], z) => [
    (lon + 180) * units(z),
    (180 - (180 / Math.PI) * Math.asinh(Math.tan((lat * Math.PI) / 180))) * units(z),
  ];
  let compared = 0;
  for (const z of [7, 8, 9]) {
    for (const [x, y] of places(features, z)) {
      for (const layer of await tile(one.id, z, x, y)) {
        for (const f of layer.features) {
          const runs = runsOf(f.geometry);
          const inside = runs.every((r) =>
            r.points.every((p) => p.every((v) => v > 0 && v < 4096)),
          );
          const { geometry } = features[Number(f.id) - 1];
          const parts = geometry.type === "Polygon" ? [geometry.coordinates] : geometry.coordinates;
          if (!inside || parts.length > 1) continue;
          const rings = parts.flat().map((r) => r.slice(1).map((p) => mercator(p, z)));
          const size =
            Math.abs(area(rings[0])) - rings.slice(1).reduce((s, r) => s + Math.abs(area(r)), 0);
          const drawn = runs.reduce((s, r) => s + area(r.points), 0);
          assert.ok(Math.abs(drawn / size - 1) < 0.03 || Math.abs(drawn - size) < 300);
          const west = Math.min(...rings[0].map(([u]) => u)) - 4096 * x;
          assert.ok(Math.abs(Math.min(...runs[0].points.map(([u]) => u)) - west) < 24);
          compared += 1;
        }
      }
    }
  }
  assert.ok(compared > 60, `${compared} areas were compared`);
});

test("what lies nowhere is an empty tile, and what is no tile is none", async () => {
  const { id } = await collection(0);
  assert.deepEqual(await tile(id, 7, 1, 1), []);
  for (const path of ["20/0/0", "3/8/0", "3/0/8", "3/-1/0", "a/b/c", "1/1", "0/0/0/0"]) {
    const got = await fetch(`${address}collections/${id}/tiles/WebMercatorQuad/${path}`);
    assert.equal(got.status, 404);
    assert.equal(got.headers.get("content-type"), "application/problem+json");
  }
  const listed = await json(`collections/${id}/tiles/WebMercatorQuad?f=tilejson`);
  assert.equal(listed.tilejson, "3.0.0");
  const [z, y, x] = [6, 22, 25];
  const first = listed.tiles[0].replace("{z}", z).replace("{y}", y).replace("{x}", x);
  assert.equal((await fetch(first)).status, 200);
});
