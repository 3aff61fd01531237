// From degrees to map units and back, as src/core/projection.cpp does it (formulas and sources
// there); only for the tools that need a place on the globe.
import { entry } from "./entry";
import type { ProjectionPlan } from "./plan";

const RAD = Math.PI / 180;
const AXIS = 6378137;
const E2 = 0.0066943799901413165;
const E = Math.sqrt(E2);
const [A1, A2, A3, A4, M] = [1.340264, -0.081106, 0.000893, 0.003796, Math.sqrt(3) / 2];

const q = (s: number): number =>
  (1 - E2) * (s / (1 - E2 * s * s) - Math.log((1 - E * s) / (1 + E * s)) / (2 * E));
const QP = q(1);
const RQ = AXIS * Math.sqrt(QP / 2);
const clamp = (v: number): number => Math.max(-1, Math.min(1, v));
const wrap = (lon: number): number =>
  Math.abs(lon) <= 180 ? lon : lon - 360 * Math.round(lon / 360);
const latitude = (b: number): number =>
  b +
  (E2 / 3 + (31 * E2 ** 2) / 180 + (517 * E2 ** 3) / 5040) * Math.sin(2 * b) +
  ((23 * E2 ** 2) / 360 + (251 * E2 ** 3) / 3780) * Math.sin(4 * b) +
  ((761 * E2 ** 3) / 45360) * Math.sin(6 * b);

export interface Projection {
  forward(lon: number, lat: number): [number, number];
  inverse(x: number, y: number): [number, number];
}

export function makeProjection(p: ProjectionPlan): Projection {
  const known: Record<string, (p: ProjectionPlan) => Projection> = {
    "azimuthal equal-area": azimuthal,
    "equal-area conic": conic,
    "world equal-area": world,
    "transverse Mercator": transverse,
    "web Mercator": mercator,
    equirectangular,
  };
  return entry(known, p.name)(p);
}

function azimuthal({ lon0, lat0 }: ProjectionPlan): Projection {
  const s = Math.sin(lat0 * RAD);
  const sin1 = clamp(q(s) / QP);
  const cos1 = Math.sqrt(1 - sin1 * sin1);
  const d =
    cos1 > 1e-12 ? (AXIS * Math.cos(lat0 * RAD)) / Math.sqrt(1 - E2 * s * s) / (RQ * cos1) : 1;
  return {
    forward(lon, lat) {
      const dl = wrap(lon - lon0) * RAD;
      const sinB = clamp(q(Math.sin(lat * RAD)) / QP);
      const cosB = Math.sqrt(1 - sinB * sinB);
      const k = Math.sqrt(2 / Math.max(1 + sin1 * sinB + cos1 * cosB * Math.cos(dl), 1e-12));
      return [
        RQ * d * k * cosB * Math.sin(dl),
        (RQ / d) * k * (cos1 * sinB - sin1 * cosB * Math.cos(dl)),
      ];
    },
    inverse(x, y) {
      const px = x / d;
      const py = d * y;
      const rho = Math.hypot(px, py);
      if (rho < 1e-9) return [lon0, lat0];
      const c = 2 * Math.asin(clamp(rho / (2 * RQ)));
      const b = Math.asin(clamp(Math.cos(c) * sin1 + (py * Math.sin(c) * cos1) / rho));
      return [
        wrap(
          lon0 +
            Math.atan2(px * Math.sin(c), rho * cos1 * Math.cos(c) - py * sin1 * Math.sin(c)) / RAD,
        ),
        latitude(b) / RAD,
      ];
    },
  };
}

function conic({ lon0, lat0, lat1, lat2 }: ProjectionPlan): Projection {
  const [s1, s2] = [Math.sin(lat1 * RAD), Math.sin(lat2 * RAD)];
  const m = (lat: number, s: number) => Math.cos(lat * RAD) / Math.sqrt(1 - E2 * s * s);
  const [m1, m2, q1, q2] = [m(lat1, s1), m(lat2, s2), q(s1), q(s2)];
  const n = Math.abs(q2 - q1) > 1e-12 ? (m1 * m1 - m2 * m2) / (q2 - q1) : s1;
  const c = m1 * m1 + n * q1;
  const rho = (lat: number) => (AXIS * Math.sqrt(Math.max(0, c - n * q(Math.sin(lat * RAD))))) / n;
  const rho0 = rho(lat0);
  const sign = n < 0 ? -1 : 1;
  return {
    forward(lon, lat) {
      const dl = wrap(lon - lon0) * RAD;
      return [rho(lat) * Math.sin(n * dl), rho0 - rho(lat) * Math.cos(n * dl)];
    },
    inverse(x, y) {
      const far = sign * Math.hypot(x, rho0 - y);
      const b = Math.asin(clamp((c - (far * far * n * n) / (AXIS * AXIS)) / n / QP));
      return [wrap(lon0 + Math.atan2(sign * x, sign * (rho0 - y)) / n / RAD), latitude(b) / RAD];
    },
  };
}

function world({ lon0 }: ProjectionPlan): Projection {
  const slope = (t: number) => A1 + 3 * A2 * t ** 2 + t ** 6 * (7 * A3 + 9 * A4 * t ** 2);
  const rise = (t: number) => t * (A1 + A2 * t ** 2 + t ** 6 * (A3 + A4 * t ** 2));
  return {
    forward(lon, lat) {
      const t = Math.asin(M * clamp(q(Math.sin(lat * RAD)) / QP));
      return [(RQ * wrap(lon - lon0) * RAD * Math.cos(t)) / (M * slope(t)), RQ * rise(t)];
    },
    inverse(x, y) {
      let t = y / RQ;
      for (let i = 0; i < 12; i++) t -= (rise(t) - y / RQ) / slope(t);
      return [
        wrap(lon0 + ((x / RQ) * M * slope(t)) / Math.cos(t) / RAD),
        latitude(Math.asin(clamp(Math.sin(t) / M))) / RAD,
      ];
    },
  };
}

const mercator = ({ lon0 }: ProjectionPlan): Projection => ({
  forward: (lon, lat) => [
    AXIS * wrap(lon - lon0) * RAD,
    AXIS *
      Math.asinh(Math.tan(Math.max(-85.051128779806604, Math.min(85.051128779806604, lat)) * RAD)),
  ],
  inverse: (x, y) => [wrap(lon0 + x / AXIS / RAD), Math.atan(Math.sinh(y / AXIS)) / RAD],
});

const equirectangular = ({ lon0, lat0, lat1 }: ProjectionPlan): Projection => ({
  forward: (lon, lat) => [
    AXIS * wrap(lon - lon0) * RAD * Math.cos(lat1 * RAD),
    AXIS * (lat - lat0) * RAD,
  ],
  inverse: (x, y) => [wrap(lon0 + x / (AXIS * Math.cos(lat1 * RAD)) / RAD), lat0 + y / AXIS / RAD],
});

// Karney's series to the fourth order in the third flattening: better than a millimetre near the
// centre, and measures are in metres.
function transverse({ lon0, lat0 }: ProjectionPlan): Projection {
  const y0 = transversePlane(0, lat0)[1];
  return {
    forward(lon, lat) {
      const [x, y] = transversePlane(wrap(lon - lon0) * RAD, lat);
      return [x, y - y0];
    },
    inverse(x, y) {
      const [dl, lat] = transverseSphere(x / THIRD.radius, (y + y0) / THIRD.radius);
      return [wrap(lon0 + dl / RAD), lat / RAD];
    },
  };
}

// Radius and coefficients of the series, both ways.
const THIRD = (() => {
  const f = 1 - Math.sqrt(1 - E2);
  const n = f / (2 - f);
  return {
    radius: (AXIS / (1 + n)) * (1 + n ** 2 / 4 + n ** 4 / 64),
    to: [
      n / 2 - (2 * n ** 2) / 3 + (5 * n ** 3) / 16 + (41 * n ** 4) / 180,
      (13 * n ** 2) / 48 - (3 * n ** 3) / 5 + (557 * n ** 4) / 1440,
      (61 * n ** 3) / 240 - (103 * n ** 4) / 140,
      (49561 * n ** 4) / 161280,
    ],
    from: [
      n / 2 - (2 * n ** 2) / 3 + (37 * n ** 3) / 96 - n ** 4 / 360,
      n ** 2 / 48 + n ** 3 / 15 - (437 * n ** 4) / 1440,
      (17 * n ** 3) / 480 - (37 * n ** 4) / 840,
      (4397 * n ** 4) / 161280,
    ],
  };
})();

// The tangent of the conformal latitude from that of the geodetic one.
function conformal(t: number): number {
  const s = Math.sinh(E * Math.atanh((E * t) / Math.hypot(1, t)));
  return t * Math.hypot(1, s) - s * Math.hypot(1, t);
}

function transversePlane(dl: number, lat: number): [number, number] {
  const tc = conformal(Math.tan(lat * RAD));
  const xi = Math.atan2(tc, Math.cos(dl));
  const eta = Math.asinh(Math.sin(dl) / Math.hypot(tc, Math.cos(dl)));
  let [x, y] = [eta, xi];
  THIRD.to.forEach((a, j) => {
    y += a * Math.sin(2 * (j + 1) * xi) * Math.cosh(2 * (j + 1) * eta);
    x += a * Math.cos(2 * (j + 1) * xi) * Math.sinh(2 * (j + 1) * eta);
  });
  return [THIRD.radius * x, THIRD.radius * y];
}

// Back to the difference of longitudes and the latitude, in radians.
function transverseSphere(eta: number, xi: number): [number, number] {
  let [a, b] = [xi, eta];
  THIRD.from.forEach((c, j) => {
    a -= c * Math.sin(2 * (j + 1) * xi) * Math.cosh(2 * (j + 1) * eta);
    b -= c * Math.cos(2 * (j + 1) * xi) * Math.sinh(2 * (j + 1) * eta);
  });
  const tc = Math.sin(a) / Math.hypot(Math.sinh(b), Math.cos(a));
  let t = tc;
  for (let i = 0; i < 8; i++) {
    const g = conformal(t);
    const step = ((tc - g) / Math.hypot(1, g)) * (1 + (1 - E2) * t * t);
    t += step / ((1 - E2) * Math.hypot(1, t));
  }
  return [Math.atan2(Math.sinh(b), Math.cos(a)), Math.atan(t)];
}
