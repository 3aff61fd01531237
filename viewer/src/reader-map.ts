// One map on a page: makes its parts, hands each what it needs, and lets go of all when the map is
// taken away.
import { tellHeight } from "./article";
import type { BackdropView } from "./backdrop";
import { backdropList, backdropViews, overlayList } from "./backdrop-lists";
import { Bars, cards } from "./beside";
import { Camera } from "./camera";
import { placeInCorner } from "./corner";
import { Details } from "./details";
import { Painter } from "./draw";
import { button, element } from "./elements";
import { failure, isNarrow, paint, part, type Frame } from "./frame";
import type { Box } from "./geometry";
import { addButtons, listen } from "./gestures";
import { itemsIn, mainLayer, named } from "./items";
import { LayerList } from "./layer-list";
import { LiveValues } from "./live-source";
import { Locator } from "./locator";
import { Legend } from "./legend";
import { HoverLabel } from "./panels";
import { PeriodBar } from "./periods";
import { fileName, savePicture } from "./picture";
import type { Plan } from "./plan";
import { Pointing } from "./pointing";
import { drawForPaper } from "./print";
import { makeProjection, type Projection } from "./projection";
import { followGround } from "./recolour";
import { Redraw } from "./redraw";
import { ScaleBar } from "./scale-bar";
import { type Hit, NEAR, Scene } from "./scene";
import { SearchField } from "./search";
import { type Restored, restoreView } from "./share";
import { MapState } from "./state";
import { TableView } from "./table";
import { Tools } from "./tools";
import { say } from "./words";
import { inPieces, later } from "./work";

// Where a reader looks, in map units.
export interface View {
  x: number;
  y: number;
  zoom: number;
}

export class ReaderMap {
  readonly state: MapState;
  // Other maps are told where the reader looks and what is pointed at.
  told: {
    view?: (view: View, moving: boolean) => void;
    key?: (key: string | null) => void;
    click?: (hit: Hit | null) => void;
  } = {};
  // What the reader saw before, as share.ts writes it; else the page's address says it.
  from: string | null = null;
  // Called when the map can be pointed at, and what was chosen before is chosen again.
  awake: () => void = () => undefined;
  readonly scene: Scene;
  readonly camera: Camera;
  readonly painter: Painter;
  readonly pointing: Pointing;
  readonly redraw: Redraw;
  live: LiveValues | null = null;
  private readonly legend: Legend;
  readonly tools: Tools;
  private readonly backdrops: BackdropView[];
  private readonly periods: PeriodBar | null = null;
  // What stands on the map and follows its view.
  private readonly furniture: { draw(): void }[] = [];
  private bars: Bars | null = null;
  private turn: Projection | null = null;
  private size = "";
  // What lives as long as the map: listeners beyond its own elements.
  private readonly life = new AbortController();

  constructor(
    readonly root: HTMLElement,
    readonly plan: Plan,
    readonly frame: Frame,
  ) {
    const { stage, side, middle } = frame;
    this.state = new MapState(plan);
    this.camera = new Camera(plan.frame, undefined, plan.page.zooms);
    this.scene = new Scene(plan);
    this.addSections();
    this.painter = new Painter(this.scene, this.camera, this.state, [frame.base, frame.overlay]);
    this.backdrops = backdropViews(stage, middle, this.camera, this.state);
    const main = mainLayer(plan);
    if (plan.page.cards) cards(this.state, side);
    this.legend = new Legend(this.state, part("div", "ochre-legend-parts", side));
    this.redraw = new Redraw(
      {
        painter: this.painter,
        backdrops: this.backdrops,
        legend: this.legend,
        camera: this.camera,
        asked: (moving) => this.told.view?.(this.camera, moving),
        over: () => this.drawOver(),
        moveStill: () => this.moveStill(),
        busy: (is) => this.root.classList.toggle("ochre-drawing", is),
      },
      () => this.alive(),
    );
    this.pointing = this.makePointing(main);
    this.followValues(side);
    if (main >= 0) this.addBars(main);
    this.addLists(side);
    if (plan.panels && plan.panels.length > 1) this.periods = new PeriodBar(this.state, middle);
    this.tools = this.addTools();
    this.furnish();
    this.addControls(main);
    this.follow();
    later(() => !this.life.signal.aborted && this.begin());
  }

  resize(): void {
    // Nothing is drawn while the map has no size, as in a tab that is not open.
    const { clientWidth, clientHeight } = this.frame.stage;
    const now = `${clientWidth} ${clientHeight} ${window.devicePixelRatio}`;
    if (now === this.size || clientWidth === 0 || clientHeight === 0) return;
    this.size = now;
    this.camera.resize(clientWidth, clientHeight);
    this.legend.resize(this.camera.home);
    this.tools.resize();
    this.placeLegend();
    this.painter.resize();
    this.redraw.resized();
    this.pointing.resized();
  }

  get title(): string {
    return this.plan.title;
  }

  // Looks where another map does.
  lookLike({ x, y, zoom }: View, moving: boolean): void {
    const { camera } = this;
    if (camera.x === x && camera.y === y && camera.zoom === zoom) return;
    camera.lookAt(x, y, zoom);
    this.pointing.close();
    this.redraw.ask(moving);
  }

  // Marks the thing of that code or name.
  point(key: string | null): void {
    this.pointing.follow(key);
  }

  // Leaves nothing behind.
  dispose(): void {
    this.life.abort();
    this.redraw.dispose();
    this.periods?.stop();
    for (const view of this.backdrops) view.dispose();
    this.root.classList.remove("ochre-alive", "ochre-drawing");
    this.root.replaceChildren();
  }

  // What a reader can choose, below what the map says.
  private addLists(side: HTMLElement): void {
    if (this.plan.page.layers) new LayerList(this.state, side);
    backdropList(this.state, side);
    overlayList(this.state, side);
  }

  private furnish(): void {
    const { camera, furniture, plan, scene } = this;
    const { stage } = this.frame;
    if (plan.page.scale_bar)
      furniture.push(new ScaleBar(stage, plan, camera, () => this.projection()));
    if (plan.page.locator)
      furniture.push(new Locator(stage, plan, scene, camera, () => this.moved()));
  }

  private followValues(side: HTMLElement): void {
    const { frame, painter, plan, state } = this;
    if (!plan.page.live) return;
    state.on(["values"], () => {
      painter.forget();
      state.tell("panel");
    });
    const announce = (text: string) => frame.announce(text);
    this.live = new LiveValues(state, plan.page.live, side, announce, this.life.signal);
  }

  private addBars(main: number): void {
    if (this.plan.page.bars <= 0) return;
    this.bars = new Bars(this.state, main, this.frame.side, {
      over: (item) => this.pointing.mark(item === null ? null : { layer: main, item }),
      choose: (item) => this.pointing.goTo({ layer: main, item }),
    });
  }

  // A layer that comes in sections has a script of its own.
  private addSections(): void {
    if (!this.plan.sections) return;
    if (!window.ochreSectioned) throw new Error(say(this.plan.words, "sections_lost"));
    this.scene.sections = window.ochreSectioned(this);
  }

  private makePointing(main: number): Pointing {
    const { plan, frame, state, root } = this;
    const pointing: Pointing = new Pointing({
      plan,
      state,
      scene: this.scene,
      camera: this.camera,
      painter: this.painter,
      legend: this.legend,
      label: new HoverLabel(frame.stage, state),
      details: new Details(root, frame, state, () => pointing.letGo()),
      announce: (text) => frame.announce(text),
      focus: () => frame.stage.focus({ preventScroll: true }),
      bars: () => this.bars,
      tools: () => this.tools,
      projection: () => this.projection(),
      redraw: (moving) => this.redraw.ask(moving),
      told: (key) => this.told.key?.(key),
      clicked: (hit) => this.told.click?.(hit),
      main,
    });
    return pointing;
  }

  // On the map: tools, and buttons that zoom.
  private addTools(): Tools {
    const { camera, frame, plan, root, state } = this;
    const bar = element("div", "ochre-buttons", null, frame.stage);
    const tools = new Tools(bar, {
      root,
      stage: frame.stage,
      camera,
      state,
      projection: () => this.projection(),
      moved: () => this.moved(),
      chosen: () => this.pointing.chosen,
      savePicture: (kind) => {
        savePicture(this, kind, fileName(plan.title)).then(
          ({ bare }) => bare && tools.tell(say(plan.words, "backdrop_screen")),
          () => tools.tell(say(plan.words, "picture_failed")),
        );
      },
    });
    addButtons(frame.stage, bar, camera, () => this.moved(), plan.words);
    return tools;
  }

  // Above the map: search, and the table.
  private addControls(main: number): void {
    const { plan, frame, state } = this;
    const { controls } = frame;
    const { page, words } = plan;
    controls.replaceChildren();
    if (page.search || page.places)
      new SearchField(plan, controls, {
        area: (at) => (at.spot ? this.scene.sections?.goTo(at) : this.pointing.goTo(at)),
        beyond: (text) => this.scene.sections?.search(text) ?? null,
        place: (place) => this.pointing.goToPlace(place),
      });
    const first = main >= 0 ? main : plan.layers.findIndex((layer) => named(layer));
    if (!page.table || first < 0) return;
    const label = say(words, "table");
    const opener = button(controls, label, label, () => table.toggle(), "ochre-open-table");
    opener.setAttribute("aria-expanded", "false");
    const table = new TableView(state, first, frame.middle, {
      items: (layer) => itemsIn(this.scene, this.camera, layer),
      choose: (hit) => this.pointing.goTo(hit),
      toggled: (open) => opener.setAttribute("aria-expanded", String(open)),
    });
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
    followGround(plan, this.life.signal, () => this.restyle());
    listen(this.frame.stage, this.camera, {
      moved: () => this.moved(),
      hover: (px, py) => pointing.hover(px, py),
      leave: () => pointing.leave(),
      choose: (px, py) => pointing.choose(px, py),
      enter: () => pointing.enter(),
      step: (by) => pointing.step(by),
      escape: () => pointing.escape(),
      hint: (key) => this.frame.hint(say(plan.words, key)),
      help: () => this.tools.tell(say(plan.words, "key_help_list")),
    });
  }

  private begin(): void {
    const { stage } = this.frame;
    this.camera.resize(stage.clientWidth, stage.clientHeight);
    this.camera.reset();
    if (this.plan.page.view) this.camera.fit(this.plan.page.view as Box, 0, 64);
    const { chosen } = this.restore();
    this.resize();
    this.moveStill();
    const watch = new ResizeObserver(() => this.resize());
    watch.observe(this.root);
    watch.observe(stage);
    this.life.signal.addEventListener("abort", () => watch.disconnect());
    const { signal } = this.life;
    window.addEventListener("hashchange", () => this.followAddress(), { signal });
    tellHeight(this.root, this.frame.page, signal, () => this.restyle());
    drawForPaper(this, signal);
    this.wake(chosen).catch((e: Error) => this.fail(e));
  }

  private restyle(): void {
    paint(this.root, this.plan);
    this.painter.forget();
    this.state.tell("look");
  }

  // What cannot be drawn ends in words.
  private fail(e: Error): void {
    this.dispose();
    failure(this.root, e);
  }

  private restore(): Restored {
    const { from, root } = this;
    const restored = restoreView(from ?? location.hash, this.camera, this.state, root.id);
    this.scene.sections?.expect(restored.chosen ? null : restored.said);
    return restored;
  }

  private followAddress(): void {
    this.from = null;
    const { found, chosen } = this.restore();
    if (!found) return;
    this.pointing.letGo();
    this.redraw.ask();
    if (chosen) this.pointing.select(chosen);
  }

  // First the picture, then what pointing needs, then what a near view does.
  private async wake(chosen: Hit | null): Promise<void> {
    const { signal } = this.life;
    await inPieces(this.scene.first(this.state), signal);
    await inPieces(this.painter.prepare(this.camera.zoom), signal);
    this.redraw.begin();
    await inPieces(this.scene.second(), signal);
    this.pointing.ready();
    if (chosen) this.pointing.select(chosen);
    this.awake();
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
    this.pointing.settled();
    this.still?.remove();
  }

  moved(): void {
    this.pointing.close();
    this.redraw.ask(true);
  }

  private drawOver(): void {
    this.pointing.again();
    this.tools.draw();
    for (const part of this.furniture) part.draw();
  }

  projection(): Projection {
    return (this.turn ??= makeProjection(this.plan.projection));
  }

  // In a corner of the map, where it is to be there and covers nothing; else beside it.
  private placeLegend(): void {
    if (this.plan.style.legend.place !== "inside") return;
    const surface = this.plan.layers.some((l) => l.kind === "density" || l.kind === "heat");
    const free = !isNarrow(this.root) && !surface;
    if (!placeInCorner(this.frame, this.camera, free, (x, y) => this.pointing.covers(x, y))) return;
    this.legend.resize(this.camera.home);
  }
}
