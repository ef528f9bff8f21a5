// The scene in three dimensions, without perspective.
import {
  AmbientLight, BufferGeometry, DirectionalLight, DoubleSide, Group, LineBasicMaterial, LineSegments, Matrix4, Mesh,
  MeshLambertMaterial, OrthographicCamera, Plane, PlaneGeometry, Raycaster, Scene as World, Vector2, Vector3, WebGLRenderer,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { Bodies } from './bodies';
import { askAnew, color } from './colors';
import type { Launch, Leg, Scene, Vec } from './data';
import { concernedIn } from './fates';
import { segments, shownOf, type Shown } from './marks';
import { add, minus, placed, poseOn, shotAt, size, timesOf } from './motion';
import { linesOf, matrixOf, segmentsOf, solidOf } from './shapes';

export type Looks = 'orbit' | 'plan' | 'south' | 'east';

export class View {
  readonly camera = new OrthographicCamera(-1, 1, 1, -1, -5000, 5000);
  private readonly world = new World();
  private readonly renderer: WebGLRenderer;
  readonly controls: OrbitControls;
  private readonly bodies: Bodies;
  private choice = new Group();
  private walls: { group: Group; legs: Leg[]; color: string }[] = [];
  private marks = new Group();
  private shown: Shown[] = [];
  private launch: Launch | null = null;
  private labels: { node: HTMLElement; body: number }[] = [];
  private selected = -1;
  private lit = -1;
  looks: Looks = 'orbit';
  time = 0;
  onMoved: () => void = () => {};
  onPicked: (body: string | null, at: Vec | null) => void = () => {};
  /** Milliseconds of the last frame: the page's own work, and drawing. */
  spent = { work: 0, draw: 0 };

  constructor(private readonly stage: HTMLElement, private readonly scene: Scene) {
    this.bodies = new Bodies(scene);
    this.renderer = new WebGLRenderer({ antialias: this.bodies.fine, preserveDrawingBuffer: true });
    this.renderer.setPixelRatio(Math.min(devicePixelRatio, 2));
    const canvas = this.renderer.domElement;
    canvas.setAttribute('aria-hidden', 'true');
    stage.prepend(canvas);
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.controls.addEventListener('change', () => { this.render(); this.onMoved(); });
    this.world.add(new AmbientLight(0xffffff, 1.7), this.marks, this.choice);
    const sun = new DirectionalLight(0xffffff, 1.6);
    sun.position.set(-3, -5, 8);
    this.world.add(sun);
    this.addGround();
    this.addWalls();
    this.world.add(...this.bodies.meshes);
    canvas.addEventListener('click', (e) => this.pick(e));
    this.resize();
    new ResizeObserver(() => this.resize()).observe(stage);
  }

  // ---- what stands there

  private addGround() {
    const box = this.extent();
    const wide = Math.max(box.high[0] - box.low[0], box.high[1] - box.low[1], 10);
    const middle: Vec = [(box.low[0] + box.high[0]) / 2, (box.low[1] + box.high[1]) / 2, 0];
    const power = 10 ** Math.floor(Math.log10(wide / 8)), lead = wide / 8 / power;
    const step = power * (lead >= 5 ? 5 : lead >= 2 ? 2 : 1);
    const count = Math.min(200, Math.ceil((wide * 3) / step / 2));
    const at = this.scene.ground?.at[2] ?? 0, points: number[] = [];
    const cx = Math.round(middle[0] / step) * step, cy = Math.round(middle[1] / step) * step;
    for (let i = -count; i <= count; ++i) {
      points.push(cx + i * step, cy - count * step, at, cx + i * step, cy + count * step, at);
      points.push(cx - count * step, cy + i * step, at, cx + count * step, cy + i * step, at);
    }
    const grid = segments(points, new LineBasicMaterial({ color: color('--grid') }));
    grid.name = 'grid';
    grid.renderOrder = -2;
    this.world.add(grid);
    const ground = this.scene.ground;
    if (ground && !this.scene.flat && Math.abs(ground.normal[2]) < 0.999999) {
      const plane = new Mesh(new PlaneGeometry(wide * 3, wide * 3), new MeshLambertMaterial({ color: color('--grid'), side: DoubleSide, transparent: true, opacity: 0.5 }));
      plane.lookAt(...ground.normal);
      plane.position.set(...ground.at);
      this.world.add(plane);
    }
  }

  private addWalls() {
    const materials = [...new Set(this.scene.walls.map((w) => w.material))];
    for (const wall of this.scene.walls) {
      const group = new Group(), number = materials.indexOf(wall.material);
      const passes = !wall.blocks.includes('shots');
      const material = new MeshLambertMaterial({
        color: color(`--material-${number % 5}`), transparent: true, opacity: passes ? 0.35 : 0.72, side: DoubleSide,
      });
      for (const part of wall.parts) group.add(new Mesh(solidOf(part), material));
      group.matrixAutoUpdate = false;
      this.walls.push({ group, legs: wall.legs, color: `--material-${number % 5}` });
      this.world.add(group);
      group.name = wall.id;
    }
  }

  /** What stands, and the ways that do not lead far away from it. */
  private extent(): { low: Vec; high: Vec } {
    const low: [number, number, number] = [Infinity, Infinity, Infinity], high: [number, number, number] = [-Infinity, -Infinity, -Infinity];
    const put = (p: Vec, r: number) => {
      for (let k = 0; k < 3; ++k) low[k] = Math.min(low[k]!, p[k]! - r), high[k] = Math.max(high[k]!, p[k]! + r);
    };
    for (const b of this.scene.bodies) put(poseOn(b.legs, 0).at, 1);
    for (const w of this.scene.walls) {
      const pose = poseOn(w.legs, 0);
      for (const part of w.parts.slice(0, 2000)) {
        const g = solidOf(part);
        g.computeBoundingBox();
        for (const corner of [g.boundingBox!.min, g.boundingBox!.max]) put(placed(pose, [corner.x, corner.y, corner.z]), 0);
      }
    }
    if (!(low[0] <= high[0])) put([0, 0, 0], 5);
    const reach = size(minus(high, low)) + 20;
    const nearLow = low.map((v) => v - reach), nearHigh = high.map((v) => v + reach);
    const addNear = (p: Vec, r: number) => {
      if (p.every((v, k) => v >= nearLow[k]! && v <= nearHigh[k]!)) put(p, r);
    };
    for (const mark of this.launch?.sketch ?? []) {
      if (mark.ring) addNear(mark.ring.center, mark.ring.radius);
      if (mark.path) addNear(mark.path.from, 0), addNear(mark.path.to, 0);
      if (mark.hop) addNear(mark.hop.from, 0), addNear(mark.hop.to, 0);
      if (mark.flight) {
        const [from, to] = timesOf(mark.flight);
        for (let i = 0; i <= 40; ++i) addNear(shotAt(mark.flight, from + ((to - from) * i) / 40), 0);
      }
    }
    return { low, high };
  }

  // ---- a launch

  show(launch: Launch) {
    this.launch = launch;
    for (const s of this.shown) {
      if (s.object instanceof Mesh || s.object instanceof LineSegments) s.object.geometry.dispose();
    }
    this.marks.clear();
    this.shown = shownOf(launch);
    for (const s of this.shown) this.marks.add(s.object);
    this.makeLabels();
    this.bodies.show(launch, this.time);
    this.paint();
  }

  // ---- names

  private makeLabels() {
    for (const l of this.labels) l.node.remove();
    this.labels = [];
    const kMost = 40;
    for (const id of concernedIn(this.launch!, kMost)) this.addLabel(id);
  }
  private addLabel(id: string) {
    const body = this.bodies.numberOf(id);
    if (body === undefined || this.labels.some((l) => l.body === body)) return;
    const node = document.createElement('span');
    node.className = 'name';
    node.textContent = id.length > 32 ? id.slice(0, 32) + '…' : id;
    node.style.color = `var(--faction-words-${this.scene.bodies[body]!.faction % 6})`;
    this.stage.append(node);
    this.labels.push({ node, body });
  }

  private placeLabels() {
    const { width, height } = this.room;
    const taken: [number, number, number, number][] = [], p = new Vector3();
    for (const l of this.labels) {
      const pose = this.bodies.poseOf(l.body, this.time);
      const room = this.bodies.rooms[l.body]!;
      // Above its head: in a plane that is up the page.
      p.set(...(this.looks === 'plan' ? add(placed(pose, room.middle), [0, room.radius + 0.25, 0]) : add(pose.at, [0, 0, room.high + 0.35]))).project(this.camera);
      const x = Math.round((p.x * 0.5 + 0.5) * width), y = Math.round((0.5 - p.y * 0.5) * height);
      const w = l.node.textContent!.length * 7 + 8;
      const box: [number, number, number, number] = [x - w / 2, y - 16, x + w / 2, y];
      const free = box[0] > 0 && box[2] < width && box[1] > 0 && box[3] < height && !taken.some((t) => box[0] < t[2] && t[0] < box[2] && box[1] < t[3] && t[1] < box[3]);
      const chosen = l.body === this.selected || l.body === this.lit;
      l.node.hidden = !free && !chosen;
      l.node.classList.toggle('chosen', chosen);
      if (l.node.hidden) continue;
      taken.push(box);
      l.node.style.transform = `translate(${x}px, ${y}px) translate(-50%, -100%)`;
    }
  }

  // ---- time

  /** The middle of the box around its hitboxes. */
  middleOf(id: string): Vec | null {
    const body = this.bodies.numberOf(id);
    return body === undefined ? null : placed(this.bodies.poseOf(body, this.time), this.bodies.rooms[body]!.middle);
  }

  /** Everything where it is then; draws. */
  update(time: number) {
    const start = performance.now();
    this.time = time;
    this.bodies.place(time);
    for (const w of this.walls) {
      matrixOf(poseOn(w.legs, time), w.group.matrix);
      w.group.matrixWorldNeedsUpdate = true;
    }
    for (const s of this.shown) {
      s.object.visible = time >= s.from && time <= s.to;
      if (s.object.visible) s.update?.(time);
    }
    this.work = performance.now() - start;
    this.render();
  }
  private work = 0;

  /** Draws, once before the page is next shown, whatever asks for it until then. */
  render() {
    if (this.asked) return;
    this.asked = requestAnimationFrame(() => this.draw());
  }
  private asked = 0;

  draw() {
    cancelAnimationFrame(this.asked);
    this.asked = 0;
    const start = performance.now();
    this.placeChoice();
    this.placeLabels();
    const middle = performance.now();
    this.renderer.render(this.world, this.camera);
    this.spent.work = this.work + middle - start;
    this.work = 0;
    this.spent.draw = performance.now() - middle;
  }

  // ---- choosing

  private placeChoice() {
    for (const old of this.choice.children) (old as LineSegments).geometry.dispose();
    this.choice.clear();
    for (const [body, tone] of [[this.selected, '--ink'], [this.lit, '--sight']] as const) {
      if (body < 0) continue;
      const room = this.bodies.rooms[body]!, pose = this.bodies.poseOf(body, this.time), middle = placed(pose, room.middle);
      const r = room.radius + 0.3, h = room.high + 0.15;
      const lines = segments(segmentsOf(linesOf({ ring: { near: 0, far: r, low: 0, high: h } })), new LineBasicMaterial({ color: color(tone) }));
      lines.position.set(middle[0], middle[1], pose.at[2]);
      this.choice.add(lines);
    }
  }
  select(id: string | null) {
    this.selected = id === null ? -1 : this.bodies.numberOf(id) ?? -1;
    if (id !== null) this.addLabel(id);
    this.render();
  }
  light(id: string | null) {
    this.lit = id === null ? -1 : this.bodies.numberOf(id) ?? -1;
    if (id !== null) this.addLabel(id);
    this.render();
  }

  private pick(event: MouseEvent) {
    const box = this.renderer.domElement.getBoundingClientRect();
    const at = new Vector2(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2);
    const ray = new Raycaster();
    ray.setFromCamera(at, this.camera);
    for (const solid of this.bodies.solids) solid.computeBoundingSphere();
    const hits = ray.intersectObjects([...this.bodies.solids, ...this.walls.map((w) => w.group)], true);
    const first = hits[0];
    const id = first?.instanceId !== undefined ? this.bodies.bodyAt(first.object, first.instanceId) : null;
    let spot = first?.point ?? null;
    if (!spot) spot = ray.ray.intersectPlane(new Plane(new Vector3(0, 0, 1), -(this.scene.ground?.at[2] ?? 0)), new Vector3());
    this.onPicked(id, spot ? [spot.x, spot.y, spot.z] : null);
  }

  measured(from: Vec | null, to: Vec | null) {
    const old = this.world.getObjectByName('measure');
    if (old) this.world.remove(old);
    if (from && to) {
      const line = segments([...from, ...to], new LineBasicMaterial({ color: color('--ink'), depthTest: false }));
      line.name = 'measure';
      line.renderOrder = 9;
      this.world.add(line);
    }
    this.render();
  }

  // ---- the camera

  look(looks: Looks, keepPlace = false) {
    this.looks = this.scene.flat ? 'plan' : looks;
    const box = this.extent();
    const middle = new Vector3((box.low[0] + box.high[0]) / 2, (box.low[1] + box.high[1]) / 2, (box.low[2] + box.high[2]) / 2);
    if (keepPlace) middle.copy(this.controls.target);
    const from = { orbit: new Vector3(-0.45, -0.9, 0.75), plan: new Vector3(0, 0, 1), south: new Vector3(0, -1, 0), east: new Vector3(1, 0, 0) }[this.looks].normalize();
    this.camera.up.set(0, this.looks === 'plan' ? 1 : 0, this.looks === 'plan' ? 0 : 1);
    this.camera.position.copy(middle).addScaledVector(from, 500);
    this.controls.target.copy(middle);
    this.controls.enableRotate = this.looks === 'orbit';
    if (!keepPlace) this.zoomTo(box);
    this.controls.update();
    this.camera.updateProjectionMatrix();
    this.render();
  }

  private zoomTo(box: { low: Vec; high: Vec }) {
    this.camera.lookAt(this.controls.target);
    this.camera.updateMatrixWorld();
    const into = new Matrix4().copy(this.camera.matrixWorld).invert();
    let wide = 1, high = 1;
    for (let i = 0; i < 8; ++i) {
      const p = new Vector3(i & 1 ? box.high[0] : box.low[0], i & 2 ? box.high[1] : box.low[1], i & 4 ? box.high[2] : box.low[2]).applyMatrix4(into);
      wide = Math.max(wide, 2.1 * Math.abs(p.x)), high = Math.max(high, 2.1 * Math.abs(p.y));
    }
    const { width, height } = this.halfSize();
    this.camera.zoom = Math.min((2 * width) / wide, (2 * height) / high);
  }
  /** Of the stage, pixels: asked for once, as it costs a layout. */
  private room = { width: 0, height: 0 };
  private halfSize() {
    return { width: this.room.width / 40, height: this.room.height / 40 };
  }
  private resize() {
    this.room = { width: this.stage.clientWidth, height: this.stage.clientHeight };
    const { width, height } = this.halfSize();
    if (width === 0 || height === 0) return;
    this.camera.left = -width, this.camera.right = width, this.camera.top = height, this.camera.bottom = -height;
    this.camera.updateProjectionMatrix();
    this.renderer.setSize(this.room.width, this.room.height);
    this.render();
    this.onMoved();
  }
  /** For a link: where the camera is, what it looks at, and its zoom. */
  get place(): number[] {
    const p = this.camera.position, t = this.controls.target;
    return [p.x, p.y, p.z, t.x, t.y, t.z, this.camera.zoom].map((v) => Math.round(v * 1000) / 1000);
  }
  set place(numbers: number[]) {
    const [x, y, z, a, b, c, zoom] = numbers as [number, number, number, number, number, number, number];
    this.camera.position.set(x, y, z), this.controls.target.set(a, b, c);
    this.camera.zoom = zoom;
    this.controls.update();
    this.camera.updateProjectionMatrix();
    this.render();
  }
  /** Metres across the stage. */
  get span(): number {
    return (this.camera.right - this.camera.left) / this.camera.zoom;
  }
  /** Where a place is on the stage, pixels. */
  onStage(p: Vec): { x: number; y: number } {
    const v = new Vector3(...p).project(this.camera);
    return { x: (v.x * 0.5 + 0.5) * this.room.width, y: (0.5 - v.y * 0.5) * this.room.height };
  }
  /** Where the drawn body is, as the graphics know it: for tests. */
  drawnAt(id: string): Vec | null {
    const body = this.bodies.numberOf(id);
    return body === undefined ? null : this.bodies.drawnAt(body);
  }

  /** Colours anew, as when the system turns dark. */
  paint() {
    askAnew();
    this.world.background = color('--paper');
    (this.world.getObjectByName('grid') as LineSegments<BufferGeometry, LineBasicMaterial>).material.color.copy(color('--grid'));
    this.walls.forEach((w) => ((w.group.children[0] as Mesh<BufferGeometry, MeshLambertMaterial> | undefined)?.material.color.copy(color(w.color))));
    this.bodies.paint();
  }
}
