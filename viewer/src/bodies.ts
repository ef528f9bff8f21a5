// The bodies of a scene: their hitboxes, a sign over the head, which way they face, and a halo once struck.
// Thousands are drawn as a few crowds; who only moves is only shifted.
import {
  Box3, BoxGeometry, Color, ConeGeometry, InstancedMesh, MeshLambertMaterial, OctahedronGeometry, RingGeometry,
  SphereGeometry, TorusGeometry, type BufferGeometry, type Object3D,
} from 'three';
import { color, factionColor } from './colors';
import type { Launch, Leg, Pose, Scene, Turn, Vec } from './data';
import { bodyPose, kUpright, motionsOf, stateAt, turned } from './motion';
import { solidOf } from './shapes';

/** How much room a body's hitboxes take, in its frame. */
export interface Room {
  middle: Vec;
  radius: number; // to the sides of its middle, at most
  ahead: number;
  high: number;
}

/** Many bodies' hitboxes of one kind, drawn at once. */
interface Crowd {
  mesh: InstancedMesh;
  bodies: number[]; // the number of each instance's body
  hitbox: number;
}

/** What is drawn of a body: one of many, and where it stands beside the body. */
interface Piece {
  mesh: InstancedMesh;
  instance: number;
  hitbox: number; // -1: none
  off: Vec;
}

export class Bodies {
  readonly rooms: Room[] = []; // of each body
  private crowds: Crowd[] = [];
  private signs: InstancedMesh[] = [];
  private noses: InstancedMesh;
  private halos: InstancedMesh;
  private haloed: { body: number; from: number }[] = []; // in the order in which halos come
  private pieces: Piece[][]; // of each body: hitboxes, sign, nose, and a halo if it ever has one
  private stood: { turn: Turn; hitboxes: boolean[] | null }[] = []; // how each was drawn last
  private own: (Leg[] | undefined)[] = []; // the way that only the launch knows
  private moving: number[] = []; // who may look otherwise at another time
  private attackerStruck = Infinity;
  private hasAttacker = false;
  private time = 0;
  private numbers = new Map<string, number>();

  constructor(private readonly scene: Scene) {
    const fine = this.fine, count = Math.max(1, scene.bodies.length);
    scene.bodies.forEach((b, i) => this.numbers.set(b.id, i));
    this.pieces = scene.bodies.map(() => []);
    this.addHitboxes(fine);
    this.addSigns(fine);
    this.noses = crowdOf(new BoxGeometry(1, 0.06, 0.06).translate(0.5, 0, 0), count);
    this.halos = crowdOf(fine ? new TorusGeometry(1, 0.07, 8, 32) : new RingGeometry(0.9, 1.1, 12), count);
    scene.bodies.forEach((_, i) => this.pieces[i]!.push({ mesh: this.noses, instance: i, hitbox: -1, off: [0, 0, 0] }));
  }

  /** In a crowd what is round is less so. */
  get fine(): boolean {
    return this.scene.bodies.length <= 300;
  }
  get meshes(): InstancedMesh[] {
    return [...this.solids, ...this.signs, this.noses, this.halos];
  }
  /** Those that can be clicked. */
  get solids(): InstancedMesh[] {
    return this.crowds.map((c) => c.mesh);
  }
  numberOf(id: string): number | undefined {
    return this.numbers.get(id);
  }
  bodyAt(solid: Object3D, instance: number): string | null {
    const crowd = this.crowds.find((c) => c.mesh === solid);
    return crowd ? this.scene.bodies[crowd.bodies[instance]!]!.id : null;
  }
  poseOf(body: number, time: number): Pose {
    return bodyPose(this.scene.bodies[body]!, this.own[body], time);
  }
  /** Where its first hitbox is, as the graphics know it: for tests. */
  drawnAt(body: number): Vec | null {
    const first = this.pieces[body]?.find((p) => p.hitbox >= 0);
    if (!first) return null;
    const m = first.mesh.instanceMatrix.array, o = 16 * first.instance;
    return [m[o + 12]!, m[o + 13]!, m[o + 14]!];
  }

  private addHitboxes(fine: boolean) {
    const byBuild = new Map<string, number[]>();
    this.scene.bodies.forEach((b, i) => {
      const list = byBuild.get(b.build) ?? [];
      list.push(i);
      byBuild.set(b.build, list);
    });
    for (const [name, bodies] of byBuild) {
      const all = new Box3();
      this.scene.builds[name]!.hitboxes.forEach((h, hitbox) => {
        const geometry = solidOf(h.shape, fine);
        geometry.computeBoundingBox();
        all.union(geometry.boundingBox!);
        const mesh = crowdOf(geometry, bodies.length);
        this.crowds.push({ mesh, bodies, hitbox });
        bodies.forEach((b, instance) => this.pieces[b]!.push({ mesh, instance, hitbox, off: [0, 0, 0] }));
      });
      const wide = Math.max(all.max.x - all.min.x, all.max.y - all.min.y) / 2;
      const room: Room = {
        middle: [(all.min.x + all.max.x) / 2, (all.min.y + all.max.y) / 2, (all.min.z + all.max.z) / 2],
        radius: Math.max(0.1, wide), ahead: Math.max(0.1, all.max.x), high: all.max.z,
      };
      for (const b of bodies) this.rooms[b] = room;
    }
  }

  // What colour says, the sign over the head says, too.
  private addSigns(fine: boolean) {
    const solids = [new SphereGeometry(0.13, fine ? 12 : 4, fine ? 8 : 3), new BoxGeometry(0.2, 0.2, 0.2), new ConeGeometry(0.14, 0.24, 3).rotateX(Math.PI / 2), new OctahedronGeometry(0.16)];
    const next = [0, 0, 0, 0];
    for (const b of this.scene.bodies) next[b.faction % 4]! += 1;
    this.signs = solids.map((g, i) => {
      const mesh = crowdOf(g, Math.max(1, next[i]!));
      mesh.count = next[i]!;
      return mesh;
    });
    this.scene.bodies.forEach((b, i) => {
      this.pieces[i]!.push({ mesh: this.signs[b.faction % 4]!, instance: --next[b.faction % 4]!, hitbox: -1, off: [0, 0, 0] });
    });
  }

  /** A launch: who moves then, and who is struck when. Everybody where they are at the time. */
  show(launch: Launch, time: number) {
    const motions = motionsOf(launch), by = this.numbers.get(launch.by ?? ''), from = new Map<number, number>();
    for (const s of launch.strikes) {
      const body = this.numbers.get(s.body)!;
      from.set(body, Math.min(s.time, from.get(body) ?? Infinity));
    }
    this.hasAttacker = by !== undefined;
    if (by !== undefined) this.attackerStruck = from.get(by) ?? Infinity, from.set(by, -Infinity);
    for (const { body } of this.haloed) this.pieces[body]!.pop();
    this.haloed = [...from].map(([body, t]) => ({ body, from: t })).sort((a, b) => a.from - b.from);
    this.haloed.forEach((h, instance) => this.pieces[h.body]!.push({ mesh: this.halos, instance, hitbox: -1, off: [0, 0, 0] }));
    this.own = [], this.moving = [], this.stood = [];
    this.scene.bodies.forEach((b, i) => {
      this.own[i] = motions.get(b.id);
      const still = b.legs.length === 1 && !b.legs[0]!.velocity && !b.legs[0]!.turn_rate;
      if (!still || this.own[i] || b.states) this.moving.push(i);
    });
    this.placeAll(this.scene.bodies.keys(), time);
    this.light(time);
  }

  place(time: number) {
    if (this.moving.length > 0) this.placeAll(this.moving, time);
    this.light(time);
  }

  /** Halos until then. */
  private light(time: number) {
    this.time = time;
    let low = 0, high = this.haloed.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.haloed[middle]!.from <= time) low = middle + 1;
      else high = middle;
    }
    this.halos.count = low;
    if (!this.hasAttacker) return;
    this.halos.setColorAt(0, color(this.attackerStruck <= time ? '--reached' : '--ink'));
    this.halos.instanceColor!.needsUpdate = true;
  }

  private placeAll(bodies: Iterable<number>, time: number) {
    for (const b of bodies) {
      const body = this.scene.bodies[b]!, pose = this.poseOf(b, time);
      const hitboxes = body.states ? stateAt(body, time).hitboxes : null, stood = this.stood[b];
      if (stood && stood.turn === pose.turn && stood.hitboxes === hitboxes) {
        for (const piece of this.pieces[b]!) shift(piece, pose.at);
        continue;
      }
      this.stood[b] = { turn: pose.turn, hitboxes };
      this.putAnew(b, pose, hitboxes);
    }
    for (const m of this.meshes) m.instanceMatrix.needsUpdate = true;
  }
  private putAnew(b: number, pose: Pose, hitboxes: boolean[] | null) {
    const room = this.rooms[b]!, middle = turned(pose.turn, room.middle), fallen = this.scene.bodies[b]!.fallen;
    for (const piece of this.pieces[b]!) {
      // What is not there any more is drawn without size.
      if (piece.hitbox >= 0) put(piece, pose, pose.turn, hitboxes && !hitboxes[piece.hitbox] ? 0 : 1);
      else if (piece.mesh === this.noses) piece.off = middle, put(piece, pose, pose.turn, fallen ? 0 : 1, fallen ? 0 : room.ahead + 0.45);
      else if (piece.mesh === this.halos) piece.off = [middle[0], middle[1], 0.08], put(piece, pose, kUpright, room.radius + 0.18);
      else piece.off = [middle[0], middle[1], room.high + 0.25], put(piece, pose, kUpright, 1);
    }
  }

  /** Colours anew. */
  paint() {
    const tone = new Color();
    this.scene.bodies.forEach((b, i) => {
      const own = factionColor(b.faction), fallen = b.fallen ? '--faint' : own;
      for (const { mesh, instance, hitbox } of this.pieces[i]!) {
        // In a plane its sign stands on the body itself.
        const name = hitbox >= 0 ? fallen : mesh === this.noses ? own : mesh === this.halos ? '--reached' : this.scene.flat ? '--paper' : fallen;
        mesh.setColorAt(instance, tone.copy(color(name)));
      }
    });
    for (const m of this.meshes) {
      if (m.instanceColor) m.instanceColor.needsUpdate = true;
    }
    this.light(this.time);
  }
}

function crowdOf(geometry: BufferGeometry, count: number): InstancedMesh {
  const mesh = new InstancedMesh(geometry, new MeshLambertMaterial({ color: 0xffffff }), count);
  mesh.frustumCulled = false;
  return mesh;
}

/** `along`: how long it is along its x, where that is not its size. */
function put(piece: Piece, pose: Pose, turn: Turn, scale: number, along = scale) {
  const m = piece.mesh.instanceMatrix.array, o = 16 * piece.instance, [x, y, z] = turn;
  m[o] = x[0] * along, m[o + 1] = x[1] * along, m[o + 2] = x[2] * along, m[o + 3] = 0;
  m[o + 4] = y[0] * scale, m[o + 5] = y[1] * scale, m[o + 6] = y[2] * scale, m[o + 7] = 0;
  m[o + 8] = z[0] * scale, m[o + 9] = z[1] * scale, m[o + 10] = z[2] * scale, m[o + 11] = 0;
  m[o + 15] = 1;
  shift(piece, pose.at);
}
function shift(piece: Piece, at: Vec) {
  const m = piece.mesh.instanceMatrix.array, o = 16 * piece.instance + 12, off = piece.off;
  m[o] = at[0] + off[0], m[o + 1] = at[1] + off[1], m[o + 2] = at[2] + off[2];
}
