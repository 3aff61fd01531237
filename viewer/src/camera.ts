// Where the reader looks: map units to CSS pixels and back. The home view shows the whole frame;
// nobody can zoom out beyond it or lose the map off the screen.

const OVER = 0.35; // of the view, that an edge of the frame may come in

export class Camera {
  width = 1;
  height = 1;
  scale = 1; // pixels per map unit
  home = 1;
  x = 0; // map position at the middle of the view
  y = 0;

  constructor(
    readonly frame: readonly [number, number, number, number],
    readonly margin = 12,
    // Least and greatest zoom.
    private readonly zooms: readonly number[] = [1, 64],
  ) {
    this.reset();
  }

  resize(width: number, height: number): void {
    const zoom = this.scale / this.home;
    this.width = Math.max(1, width);
    this.height = Math.max(1, height);
    const [x0, y0, x1, y1] = this.frame;
    this.home = Math.min(
      Math.max(1, this.width - 2 * this.margin) / (x1 - x0),
      Math.max(1, this.height - 2 * this.margin) / (y1 - y0),
    );
    this.scale = this.home * zoom;
    this.hold();
  }

  reset(): void {
    const [x0, y0, x1, y1] = this.frame;
    this.scale = this.home * this.within(1);
    this.x = (x0 + x1) / 2;
    this.y = (y0 + y1) / 2;
  }

  // Can the reader come nearer at all?
  get zooming(): boolean {
    return this.within(0) < this.within(Infinity);
  }

  private within(zoom: number): number {
    const [least = 1, most = 64] = this.zooms;
    return Math.min(most, Math.max(least, zoom));
  }

  get zoom(): number {
    return this.scale / this.home;
  }

  toScreen(x: number, y: number): [number, number] {
    return [
      (x - this.x) * this.scale + this.width / 2,
      (this.y - y) * this.scale + this.height / 2,
    ];
  }

  toMap(px: number, py: number): [number, number] {
    return [
      this.x + (px - this.width / 2) / this.scale,
      this.y - (py - this.height / 2) / this.scale,
    ];
  }

  // The map position under (px, py) stays there.
  zoomAt(factor: number, px = this.width / 2, py = this.height / 2): void {
    const [mx, my] = this.toMap(px, py);
    this.scale = this.home * this.within(this.zoom * factor);
    this.x = mx - (px - this.width / 2) / this.scale;
    this.y = my + (py - this.height / 2) / this.scale;
    this.hold();
  }

  // A place in the middle of the view.
  lookAt(x: number, y: number, zoom: number): void {
    this.scale = this.home * this.within(zoom);
    this.x = x;
    this.y = y;
    this.hold();
  }

  // A box of the map as large as the view allows, with room around it.
  fit(box: readonly [number, number, number, number], room = 0.25, most = 16): void {
    const wide = Math.max(box[2] - box[0], 1e-9) * (1 + 2 * room);
    const high = Math.max(box[3] - box[1], 1e-9) * (1 + 2 * room);
    this.lookAt(
      (box[0] + box[2]) / 2,
      (box[1] + box[3]) / 2,
      Math.min(most, this.width / wide / this.home, this.height / high / this.home),
    );
  }

  panBy(dx: number, dy: number): void {
    this.x -= dx / this.scale;
    this.y += dy / this.scale;
    this.hold();
  }

  // The view stays over the frame, whose edges may come in by a third of the view: so the place
  // under the pointer or between the fingers keeps still while the reader zooms. The home view is
  // centred.
  private hold(): void {
    const [x0, y0, x1, y1] = this.frame;
    const keep = (at: number, low: number, high: number, pixels: number) => {
      const half = (pixels / 2 - this.margin) / this.scale;
      if (this.zoom <= 1 + 1e-9) return (low + high) / 2;
      const [a, b] = [
        low + half - (OVER * pixels) / this.scale,
        high - half + (OVER * pixels) / this.scale,
      ];
      return a > b ? (low + high) / 2 : Math.min(b, Math.max(a, at));
    };
    this.x = keep(this.x, x0, x1, this.width);
    this.y = keep(this.y, y0, y1, this.height);
  }
}
