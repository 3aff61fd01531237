// The plan that a page carries, unpacked by code of the tests' own.

// Whole numbers of a packed text.
export function numbers(text) {
  const out = [];
  let [value, times] = [0, 1];
  for (const c of text) {
    const code = c.charCodeAt(0);
    const digit = code - 35 - (code > 60) - (code > 92);
    value += times * (digit < 60 ? digit : digit - 60);
    if (digit < 60) {
      out.push(value);
      [value, times] = [0, 1];
    } else times *= 30;
  }
  return out;
}
// The other way, for plans that a test makes.
export function pack(list) {
  const letter = (digit) =>
    String.fromCharCode(35 + digit + (digit >= 25) + (35 + digit + (digit >= 25) >= 92));
  return list
    .map((value) => {
      let text = "";
      for (; value >= 60; value = Math.floor(value / 30)) text += letter(60 + (value % 30));
      return text + letter(value);
    })
    .join("");
}
export const sign = (v) => (v < 0 ? -2 * v - 1 : 2 * v);
const signed = (v) => (v % 2 ? -(v + 1) / 2 : v / 2);

function writeNumber(value, how, marks) {
  const [whole, part] = Math.abs(value).toFixed(how.decimals).split(".");
  const grouped = how.grouped
    ? Array.from(whole)
        .map((c, i) => (i && (whole.length - i) % 3 === 0 ? marks.thousands + c : c))
        .join("")
    : whole.padStart(how.width, "0");
  const sign = value < 0 ? "\u2212" : "";
  return how.before + sign + grouped + (part ? marks.decimal + part : "") + how.after;
}

// The columns of a page as plain arrays.
export function columnsOf(columns, marks) {
  const made = [];
  const get = (k) => (made[k] ??= mend(make(columns[k]), columns[k].but));
  const mend = (list, but) => {
    but?.rows.forEach((row, i) => (list[row] = but.values[i]));
    return list;
  };
  const make = (c) => {
    if (Array.isArray(c)) return c;
    if ("packed" in c)
      return numbers(c.packed).map((v) => (v ? signed(v - 1) / 10 ** c.decimals : null));
    if ("placed" in c)
      return get(c.placed).map((v) =>
        v === null ? -1 : Math.round((1000 * (v - c.from)) / (c.to - c.from)),
      );
    if ("ranked" in c) {
      const all = get(c.ranked);
      return all.map((v) => (v === null ? 0 : 1 + all.filter((w) => w !== null && w > v).length));
    }
    if ("written" in c)
      return get(c.written).map((v) => (v === null ? c.missing : writeNumber(v, c, marks)));
    const of = c.of.map(get);
    return of[0].map((_, row) => {
      const lost = of.findIndex((column) => column[row] === null);
      const most = lost < 0 ? of.length : lost;
      let text = c.pieces[0];
      for (let i = 0; i < most; i++) text += of[i][row] + c.pieces[i + 1];
      return lost < 0 ? text : text + (c.missing ?? "");
    });
  };
  return get;
}

export function unpack(page) {
  if (!page.packed) return page;
  const get = columnsOf(page.columns, page.plan.marks);
  const walk = (value) => {
    if (Array.isArray(value)) return value.map(walk);
    if (value === null || typeof value !== "object") return value;
    if (typeof value.column === "number") return [...get(value.column)];
    return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, walk(v)]));
  };
  return walk(page.plan);
}

// Corners of each arc in map units.
export function arcsOf({ arcs, x0, y0, step }) {
  const list = numbers(arcs);
  const out = [];
  for (let i = 0; i < list.length;) {
    let [n, x, y] = [list[i++], 0, 0];
    const arc = [];
    for (; n > 0; n--) {
      x += signed(list[i++]);
      y += signed(list[i++]);
      arc.push([x0 + step * x, y0 + step * y]);
    }
    out.push(arc);
  }
  return out;
}

// Of each feature of a layer its rings, as numbers of arcs (~k is arc k from its end).
export function ringsOf(topology, layer) {
  const list = numbers(topology.layers[layer]);
  const out = [];
  let last = 0;
  for (let i = 0; i < list.length;) {
    const feature = [];
    if (list[i++])
      for (let rings = list[i++]; rings > 0; rings--) {
        const ring = [];
        for (let n = list[i++]; n > 0; n--) {
          const step = list[i++];
          last += signed(step >> 1);
          ring.push(step % 2 ? ~last : last);
        }
        feature.push(ring);
      }
    out.push(feature);
  }
  return out;
}

// The rings of one feature as corners.
export function cornersOf(topology, layer, item) {
  const arcs = arcsOf(topology);
  const run = (ref) => (ref < 0 ? [...arcs[~ref]].reverse() : arcs[ref]);
  return ringsOf(topology, layer)[item].map((ring) => ring.flatMap(run));
}
