// Measuring on the map: places that the reader presses, and what lies between them.
import type { Camera } from "./camera";
import { entry } from "./entry";
import { area, distance, type Degrees } from "./geodesy";
import type { Plan } from "./plan";
import type { Projection } from "./projection";
import { say, writeMeasured } from "./words";

export class Measure {
  on = false;
  places: [number, number][] = [];

  constructor(
    private readonly plan: Plan,
    private readonly camera: Camera,
    private readonly projection: () => Projection,
  ) {}

  start(): void {
    this.on = true;
  }

  stop(): void {
    this.on = false;
    this.places = [];
  }

  add(x: number, y: number): void {
    this.places.push([x, y]);
  }

  // Length of the way, and the area that it would close.
  said(): string {
    const { words } = this.plan;
    if (this.places.length < 2) return say(words, "measure_hint");
    const { inverse } = this.projection();
    const degrees: Degrees[] = this.places.map(([x, y]) => inverse(x, y));
    const legs = degrees.map(
      (p, i) => distance(p, entry(degrees, (i + 1) % degrees.length)) / 1000,
    );
    const open = legs.slice(0, -1).reduce((sum, leg) => sum + leg, 0);
    // A press is as exact as a pixel is wide.
    const pixel = 0.001 / this.camera.scale;
    const give = pixel * Math.sqrt(2 * (degrees.length - 1));
    const long = say(words, "distance", this.about(open, give));
    if (this.places.length < 3) return long;
    const round = open + entry(legs, legs.length - 1);
    const km2 = area(degrees) / 1e6;
    const far = round > 2000 ? km2 * 1e-3 : 0;
    return `${long}, ${say(words, "area", this.about(km2, Math.max(pixel * round * 0.5, far)))}`;
  }

  private about(value: number, give: number): string {
    return say(this.plan.words, "about", writeMeasured(value, give, this.plan.marks));
  }
}
