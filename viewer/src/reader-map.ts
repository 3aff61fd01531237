// One map on a page: makes its parts, hands each what it needs, and lets go of all when the map is
// taken away.
import type { BackdropView } from "./backdrop";
import { backdropList, backdropViews, overlayList } from "./backdrop-lists";
import { Bars, cards } from "./beside";
import { Camera } from "./camera";
import { freeCorner } from "./corner";
import { Painter } from "./draw";
import { button, element } from "./elements";
import { isNarrow, paint, part, type Frame } from "./frame";
import { addButtons, listen } from "./gestures";
import { LayerList } from "./layer-list";
import { Legend } from "./legend";
import { HoverLabel, PopupCard } from "./panels";
import { PeriodBar } from "./periods";
import type { Plan } from "./plan";
import { Pointing } from "./pointing";
import { makeProjection, type Projection } from "./projection";
import { followGround } from "./recolour";
import { Redraw } from "./redraw";
import { NEAR, Scene } from "./scene";
import { SearchField } from "./search";
import { MapState } from "./state";
import { TableView } from "./table";
import { restoreView, Tools } from "./tools";
import { say } from "./words";
import { inPieces, later } from "./work";

export class ReaderMap {
  private readonly state: MapState;
  private readonly scene: Scene;
  private readonly camera: Camera;
  private readonly painter: Painter;
  private readonly legend: Legend;
  private readonly pointing: Pointing;
  private readonly redraw: Redraw;
  private readonly tools: Tools;
  private readonly backdrops: BackdropView[];
  private readonly periods: PeriodBar | null = null;
  private bars: Bars | null = null;
  private turn: Projection | null = null;
  private size = "";
  // What lives as long as the map: listeners beyond its own elements.
  private readonly life = new AbortController();

  constructor(
    private readonly root: HTMLElement,
    private readonly plan: Plan,
    private readonly frame: Frame,
  ) {
    const { stage, side, middle } = frame;
    this.state = new MapState(plan);
    this.camera = new Camera(plan.frame);
    this.scene = new Scene(plan);
    this.painter = new Painter(this.scene, this.camera, this.state, [frame.base, frame.overlay]);
    this.backdrops = backdropViews(stage, middle, this.camera, this.state);
    const main = plan.layers.findIndex((l) => l.kind === "areas" && l.names !== null);
    if (plan.page.cards) cards(this.state, side);
    this.legend = new Legend(this.state, part("div", "ochre-legend-parts", side));
    this.redraw = new Redraw(
      {
        painter: this.painter,
        backdrops: this.backdrops,
        legend: this.legend,
        camera: this.camera,
        over: () => this.drawOver(),
        moveStill: () => this.moveStill(),
      },
      () => this.alive(),
    );
    this.pointing = new Pointing({
      plan,
      state: this.state,
      scene: this.scene,
      camera: this.camera,
      painter: this.painter,
      legend: this.legend,
      label: new HoverLabel(stage, this.state, plan.page.hover === "panel"),
      popup: new PopupCard(stage, this.state),
      bars: () => this.bars,
      tools: () => this.tools,
      projection: () => this.projection(),
      redraw: (moving) => this.redraw.ask(moving),
      main,
    });
    if (main >= 0) this.addBars(main);
    this.addLists(side);
    if (plan.panels && plan.panels.length > 1) this.periods = new PeriodBar(this.state, middle);
    this.tools = this.addControls(main);
    this.follow();
    later(() => !this.life.signal.aborted && this.begin());
  }

  resize(): void {
    // Nothing is drawn while the map has no size, as in a tab that is not open; it is when it gets
    // one.
    const { clientWidth, clientHeight } = this.frame.stage;
    const now = `${clientWidth} ${clientHeight} ${window.devicePixelRatio}`;
    if (now === this.size || clientWidth === 0 || clientHeight === 0) return;
    this.size = now;
    this.camera.resize(clientWidth, clientHeight);
    this.legend.resize(this.camera.home);
    this.placeLegend();
    this.painter.resize();
    this.pointing.close();
    this.redraw.resized();
  }

  // Leaves nothing behind.
  dispose(): void {
    this.life.abort();
    this.redraw.dispose();
    this.periods?.stop();
    for (const view of this.backdrops) view.dispose();
    this.root.replaceChildren();
  }

  // What a reader can choose, below what the map says.
  private addLists(side: HTMLElement): void {
    if (this.plan.page.layers) new LayerList(this.state, side);
    backdropList(this.state, side);
    overlayList(this.state, side);
  }

  private addBars(main: number): void {
    if (this.plan.page.bars <= 0) return;
    this.bars = new Bars(this.state, main, this.frame.side, {
      over: (item) => this.pointing.mark(item === null ? null : { layer: main, item }),
      choose: (item) => this.pointing.goTo({ layer: main, item }),
    });
  }

  // Over and around the map: search, tools, the table, buttons.
  private addControls(main: number): Tools {
    const { plan, frame, camera, state } = this;
    const { stage, controls } = frame;
    const { page, words } = plan;
    if (page.search || page.places)
      new SearchField(plan, controls, {
        area: (found) => this.pointing.goTo(found),
        place: (place) => this.pointing.goToPlace(place),
      });
    const bar = element("div", "ochre-buttons", null, stage);
    const tools = new Tools(bar, {
      root: this.root,
      stage,
      camera,
      state,
      projection: () => this.projection(),
      moved: () => this.moved(),
    });
    if (page.table && main >= 0) {
      const table = new TableView(state, main, frame.middle, (item) =>
        this.pointing.goTo({ layer: main, item }),
      );
      const label = say(words, "table");
      button(controls, label, label, () => table.toggle(), "ochre-open-table");
    }
    addButtons(stage, bar, camera, () => this.moved(), words);
    return tools;
  }

  // What follows when the reader sets, moves or points.
  private follow(): void {
    const { state, pointing, plan } = this;
    state.on(["panel"], () => pointing.relight());
    state.on(["backdrop", "overlays"], () => {
      for (const view of this.backdrops) {
        view.pick();
        view.draw();
      }
    });
    state.on(["panel", "layers", "classes", "lit", "look"], () => this.redraw.ask());
    followGround(plan, this.life.signal, () => {
      paint(this.root, plan);
      this.painter.forget();
      state.tell("look");
    });
    listen(this.frame.stage, this.camera, {
      moved: () => this.moved(),
      hover: (px, py) => pointing.hover(px, py),
      leave: () => pointing.leave(),
      choose: (px, py) => pointing.choose(px, py),
      enter: () => pointing.enter(),
      step: (by) => pointing.step(by),
      escape: () => pointing.escape(),
      hint: (key) => this.frame.hint(say(plan.words, key)),
    });
  }

  private begin(): void {
    const { stage } = this.frame;
    this.camera.resize(stage.clientWidth, stage.clientHeight);
    this.camera.reset();
    restoreView(location.hash, this.camera, this.state);
    this.resize();
    const watch = new ResizeObserver(() => this.resize());
    watch.observe(this.root);
    watch.observe(stage);
    this.life.signal.addEventListener("abort", () => watch.disconnect());
    void this.wake();
  }

  // First the picture, then what pointing needs, then what a near view does.
  private async wake(): Promise<void> {
    const { signal } = this.life;
    await inPieces(this.scene.first(this.state), signal);
    await inPieces(this.painter.prepare(this.camera.zoom), signal);
    this.redraw.begin();
    await inPieces(this.scene.second(), signal);
    this.pointing.ready();
    await inPieces(this.painter.prepare(NEAR), signal);
  }

  private get still(): SVGElement | null {
    return this.frame.stage.querySelector<SVGElement>(":scope > .ochre-first");
  }

  // The still picture shows the home view.
  private moveStill(): void {
    const { camera } = this;
    const [x0, y0, x1, y1] = camera.frame;
    const [x, y] = camera.toScreen((x0 + x1) / 2, (y0 + y1) / 2);
    const [dx, dy] = [x - camera.width / 2, y - camera.height / 2];
    this.still?.style.setProperty("transform", `translate(${dx}px,${dy}px) scale(${camera.zoom})`);
  }

  // A picture has been drawn: the still one has done its work.
  private alive(): void {
    this.root.classList.add("ochre-alive");
    this.still?.remove();
  }

  private moved(): void {
    this.pointing.close();
    this.redraw.ask(true);
  }

  private drawOver(): void {
    this.pointing.again();
    this.tools.draw();
  }

  private projection(): Projection {
    return (this.turn ??= makeProjection(this.plan.projection));
  }

  // In a corner of the map, where it is to be there and covers nothing; else beside it.
  private placeLegend(): void {
    const { body, stage, side } = this.frame;
    const aside = side.parentElement;
    if (this.plan.style.legend.place !== "inside" || !aside) return;
    const fit = () => this.camera.resize(stage.clientWidth, stage.clientHeight);
    const small = isNarrow(this.root);
    const surface = this.plan.layers.some((l) => l.kind === "density" || l.kind === "heat");
    body.classList.toggle("ochre-in-corner", !small && !surface);
    fit();
    if (small || surface) return;
    const at = freeCorner(this.camera, aside.getBoundingClientRect(), (x, y) =>
      this.pointing.covers(x, y),
    );
    body.classList.toggle("ochre-in-corner", at !== null);
    aside.style.left = at ? `${at.x}px` : "";
    aside.style.top = at ? `${at.y}px` : "";
    fit();
    this.legend.resize(this.camera.home);
  }
}
