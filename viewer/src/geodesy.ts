// Lengths and areas on the WGS 84 ellipsoid, from degrees, in metres and square metres. Distances
// by Vincenty's inverse formula (Vincenty, T. 1975, Direct and inverse solutions of geodesics on
// the ellipsoid, Survey Review 23, 88-93); where it does not settle (almost opposite places) by
// the great circle of the mean radius. Areas on the sphere of the ellipsoid's area with authalic
// latitudes.

import { entry } from "./entry";

const AXIS = 6378137;
const FLAT = 1 / 298.257223563;
const RAD = Math.PI / 180;

export type Degrees = readonly [number, number];

export function distance([lon1, lat1]: Degrees, [lon2, lat2]: Degrees): number {
  const b = AXIS * (1 - FLAT);
  const u = (lat: number) => Math.atan((1 - FLAT) * Math.tan(lat * RAD));
  const [su1, cu1, su2, cu2] = [
    Math.sin(u(lat1)),
    Math.cos(u(lat1)),
    Math.sin(u(lat2)),
    Math.cos(u(lat2)),
  ];
  const l = (lon2 - lon1) * RAD;
  let lambda = l;
  for (let i = 0; i < 100; i++) {
    const sl = Math.sin(lambda);
    const cl = Math.cos(lambda);
    const sinS = Math.hypot(cu2 * sl, cu1 * su2 - su1 * cu2 * cl);
    if (sinS === 0) return 0;
    const cosS = su1 * su2 + cu1 * cu2 * cl;
    const sigma = Math.atan2(sinS, cosS);
    const sinA = (cu1 * cu2 * sl) / sinS;
    const cos2 = 1 - sinA * sinA;
    const mid = cos2 ? cosS - (2 * su1 * su2) / cos2 : 0;
    const c = (FLAT / 16) * cos2 * (4 + FLAT * (4 - 3 * cos2));
    const before = lambda;
    lambda =
      l + (1 - c) * FLAT * sinA * (sigma + c * sinS * (mid + c * cosS * (2 * mid * mid - 1)));
    if (Math.abs(lambda - before) > 1e-12) continue;
    const k = (cos2 * (AXIS * AXIS - b * b)) / (b * b);
    const big = 1 + (k / 16384) * (4096 + k * (k * (320 - 175 * k) - 768));
    const small = (k / 1024) * (256 + k * (k * (74 - 47 * k) - 128));
    const off =
      small *
      sinS *
      (mid +
        (small / 4) *
          (cosS * (2 * mid * mid - 1) -
            (small / 6) * mid * (4 * sinS * sinS - 3) * (4 * mid * mid - 3)));
    return b * big * (sigma - off);
  }
  const h =
    Math.sin(((lat2 - lat1) * RAD) / 2) ** 2 +
    Math.cos(lat1 * RAD) * Math.cos(lat2 * RAD) * Math.sin(l / 2) ** 2;
  return 2 * 6371008.8 * Math.asin(Math.min(1, Math.sqrt(h)));
}

// Of a ring whose edges are geodesics: on the sphere of the ellipsoid's area, by the excess of
// each edge over the equator (Todhunter, I. 1886, Spherical Trigonometry); a pole inside is the
// ring that goes once round. Within 4e-4 for edges of thousands of kilometres, within 1e-5 for
// those of hundreds.
export function area(ring: Degrees[]): number {
  const E2 = FLAT * (2 - FLAT);
  const e = Math.sqrt(E2);
  const q = (lat: number) => {
    const s = Math.sin(lat * RAD);
    return (1 - E2) * (s / (1 - E2 * s * s) - Math.log((1 - e * s) / (1 + e * s)) / (2 * e));
  };
  const pole = q(90);
  const half = (lat: number) => Math.tan(Math.asin(Math.max(-1, Math.min(1, q(lat) / pole))) / 2);
  let excess = 0;
  let turns = 0;
  ring.forEach(([lon1, lat1], i) => {
    const [lon2, lat2] = entry(ring, (i + 1) % ring.length);
    const dl = (lon2 - lon1 - 360 * Math.round((lon2 - lon1) / 360)) * RAD;
    const [t1, t2] = [half(lat1), half(lat2)];
    excess += 2 * Math.atan2(Math.tan(dl / 2) * (t1 + t2), 1 + t1 * t2);
    turns += dl;
  });
  const sphere = (AXIS * AXIS * pole) / 2;
  const round = Math.abs(turns) > Math.PI ? 2 * Math.PI - Math.abs(excess) : Math.abs(excess);
  return sphere * round;
}
