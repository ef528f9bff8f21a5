// What a launch did, as it is drawn over time.
import {
  BufferGeometry, Float32BufferAttribute, InstancedMesh, Line, LineBasicMaterial, LineDashedMaterial, LineSegments,
  Matrix4, Mesh, MeshLambertMaterial, OctahedronGeometry, SphereGeometry, type Color, type Object3D,
} from 'three';
import { color } from './colors';
import type { Flight, Launch, Mark, Pose } from './data';
import { frameAt, hopAt, kUpright, poseOn, shapeAt, shotAt, size, timesOf } from './motion';
import { linesOf, matrixOf, segmentsOf } from './shapes';

/** What of a launch is there at a time. */
export interface Shown {
  object: Object3D;
  from: number;
  to: number;
  update?: (time: number) => void;
}

const kPast = 0.3; // how strong what was in an instant still is later

export function shownOf(launch: Launch): Shown[] {
  const shown: Shown[] = [];
  for (const mark of launch.sketch) addMark(mark, launch, shown);
  shown.push(spotsOf(launch));
  return shown;
}

/** Where it struck, as much as it has until then. */
function spotsOf(launch: Launch): Shown {
  const contact = launch.strikes.length <= 300 ? new SphereGeometry(0.09, 10, 8) : new OctahedronGeometry(0.09);
  const spots = new InstancedMesh(contact, new MeshLambertMaterial({ color: color('--reached'), depthTest: false }), Math.max(1, launch.strikes.length));
  spots.frustumCulled = false;
  spots.renderOrder = 5;
  const sorted = [...launch.strikes].sort((a, b) => a.time - b.time);
  sorted.forEach((s, i) => spots.setMatrixAt(i, new Matrix4().setPosition(...s.point)));
  return { object: spots, from: -Infinity, to: Infinity, update: (t) => {
    let low = 0, high = sorted.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (sorted[middle]!.time <= t) low = middle + 1;
      else high = middle;
    }
    spots.count = low;
  } };
}

function addMark(mark: Mark, launch: Launch, shown: Shown[]) {
  const reached = color('--reached'), way = color('--way');
  const outline = (points: number[], from: number, tone: Color, strength: number) => {
    const material = new LineBasicMaterial({ color: tone, transparent: true, opacity: strength });
    const lines = segments(points, material);
    // An instant stays to be seen, but fainter.
    shown.push({ object: lines, from, to: Infinity, update: (t) => { material.opacity = t - from <= 0.15 || t >= launch.span[1] ? strength : strength * kPast; } });
    return lines;
  };
  if (mark.path) outline([...mark.path.from, ...mark.path.to], mark.path.time, way, 1);
  if (mark.ring) {
    const { center, radius, time } = mark.ring;
    matrixed(outline(segmentsOf(linesOf({ ball: { radius } })), time, reached, 0.9), { at: center, turn: kUpright });
    const ball = new Mesh(new SphereGeometry(radius, 32, 20), new MeshLambertMaterial({ color: reached, transparent: true, opacity: 0.09, depthWrite: false }));
    ball.position.set(...center);
    shown.push({ object: ball, from: time, to: Infinity });
  }
  if (mark.area) matrixed(outline(segmentsOf(linesOf(mark.area.shape)), mark.area.time, reached, 0.9), { at: mark.area.at, turn: mark.area.facing });
  if (mark.reach) {
    for (const r of [mark.reach.near, mark.reach.far]) {
      if (!(r > 0)) continue;
      const lines = outline(segmentsOf([linesOf({ ball: { radius: r } })[0]!]), mark.reach.time, color('--reach'), 0.7);
      lines.position.set(...mark.reach.center);
    }
  }
  if (mark.sight) {
    const { from, to, cut, time } = mark.sight;
    outline([...from, ...(cut ?? to)], time, color('--sight'), 0.9);
    if (!cut) return;
    const rest = new Line(geometryOf([...cut, ...to]), new LineDashedMaterial({ color: color('--sight'), dashSize: 0.12, gapSize: 0.16 }));
    rest.computeLineDistances();
    shown.push({ object: rest, from: time, to: Infinity });
    const w = 0.15;
    outline([cut[0] - w, cut[1] - w, cut[2], cut[0] + w, cut[1] + w, cut[2], cut[0] - w, cut[1] + w, cut[2], cut[0] + w, cut[1] - w, cut[2]], time, color('--ink'), 1);
  }
  if (mark.hop) {
    const hop = mark.hop, chords = 24;
    const line = Array.from({ length: chords + 1 }, (_, i) => hopAt(hop, i / chords));
    const object = new Line(geometryOf(line.flat()), new LineBasicMaterial({ color: way }));
    shown.push({ object, from: hop.start, to: Infinity, update: (t) => {
      const share = hop.arrives > hop.start ? Math.min(1, (t - hop.start) / (hop.arrives - hop.start)) : 1;
      object.geometry.setDrawRange(0, Math.max(2, Math.ceil(share * chords) + 1));
    } });
  }
  if (mark.flight) addFlight(mark.flight, way, shown);
  if (mark.dash) {
    const legs = mark.dash.legs, first = legs[0];
    if (!first) return;
    const line = legs.flatMap((l) => [...l.at, ...poseOn([l], l.to).at]);
    outline(line, first.from, way, 0.9);
  }
  if (mark.lasting) {
    const lasted = mark.lasting;
    const grows = lasted.sizes.length > 1;
    // What is round all around has no way of its own to lie.
    const round = Object.keys(shapeAt(lasted, lasted.from)).every((kind) => kind === 'ball' || kind === 'shell');
    const lines = segments(segmentsOf(linesOf(shapeAt(lasted, lasted.from))), new LineBasicMaterial({ color: reached }));
    lines.matrixAutoUpdate = false;
    lines.frustumCulled = false;
    shown.push({ object: lines, from: lasted.from, to: lasted.to, update: (t) => {
      if (grows) {
        lines.geometry.dispose();
        lines.geometry = geometryOf(segmentsOf(linesOf(shapeAt(lasted, t))));
      }
      const frame = frameAt(lasted, t);
      matrixOf(round ? { at: frame.at, turn: kUpright } : frame, lines.matrix);
      lines.matrixWorldNeedsUpdate = true;
    } });
  }
}

function addFlight(flight: Flight, way: Color, shown: Shown[]) {
  const [from, to] = timesOf(flight);
  // Chords so short that none is off by more than a centimetre, as in the pictures.
  const at: number[] = [], when: number[] = [];
  for (const p of flight.pieces) {
    const h = p.to - p.from, bow = (size(p.acceleration ?? [0, 0, 0]) + size(p.jerk ?? [0, 0, 0]) * h) * h * h / 8;
    const chords = Math.min(500, Math.max(1, Math.ceil(Math.sqrt(bow / 0.01))));
    for (let i = when.length ? 1 : 0; i <= chords; ++i) {
      const t = p.from + (h * i) / chords;
      when.push(t), at.push(...shotAt({ ...flight, pieces: [p] }, t));
    }
  }
  if (when.length === 0) return;
  at.push(...at.slice(-3));
  const geometry = geometryOf(at), places = geometry.getAttribute('position') as Float32BufferAttribute;
  const line = new Line(geometry, new LineBasicMaterial({ color: way }));
  line.frustumCulled = false;
  const head = new Mesh(new SphereGeometry(Math.max(flight.radius, 0.06), 12, 10), new MeshLambertMaterial({ color: way }));
  shown.push({ object: head, from, to, update: (t) => { head.position.set(...shotAt(flight, t)); } });
  let last = -1;
  shown.push({ object: line, from, to: Infinity, update: (t) => {
    let n = 0;
    while (n < when.length && when[n]! <= t) ++n;
    // The last drawn place is where it is now; the one that stood there comes back.
    if (last >= 0 && last < when.length) places.setXYZ(last, at[3 * last]!, at[3 * last + 1]!, at[3 * last + 2]!);
    places.setXYZ(n, ...shotAt(flight, t));
    last = n;
    places.needsUpdate = true;
    geometry.setDrawRange(0, n + 1);
  } });
}

export function geometryOf(points: number[]): BufferGeometry {
  const out = new BufferGeometry();
  out.setAttribute('position', new Float32BufferAttribute(points, 3));
  return out;
}
export function segments(points: number[], material: LineBasicMaterial): LineSegments {
  return new LineSegments(geometryOf(points), material);
}
function matrixed(object: Object3D, pose: Pose) {
  object.matrixAutoUpdate = false;
  matrixOf(pose, object.matrix);
  object.matrixWorldNeedsUpdate = true;
}
