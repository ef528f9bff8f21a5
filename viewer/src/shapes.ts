// Hitboxes and walls as solids, areas as lines; all in their own frames.
import {
  BoxGeometry, BufferGeometry, CapsuleGeometry, ConeGeometry, CylinderGeometry, Float32BufferAttribute,
  Matrix4, Quaternion, SphereGeometry, Vector3,
} from 'three';
import { ConvexGeometry } from 'three/examples/jsm/geometries/ConvexGeometry.js';
import type { Pose, Shape, Turn, Vec } from './data';
import { add, cross, minus, size, times } from './motion';

const vector = (v: Vec) => new Vector3(v[0], v[1], v[2]);

export function matrixOf(pose: Pose, out = new Matrix4()): Matrix4 {
  const [x, y, z] = pose.turn, a = pose.at;
  return out.set(x[0], y[0], z[0], a[0], x[1], y[1], z[1], a[1], x[2], y[2], z[2], a[2], 0, 0, 0, 1);
}

/** three's round solids stand along y: from one end to the other. */
function stood(geometry: BufferGeometry, from: Vec, to: Vec): BufferGeometry {
  const axis = vector(minus(to, from));
  const turn = new Quaternion().setFromUnitVectors(new Vector3(0, 1, 0), axis.lengthSq() > 0 ? axis.normalize() : new Vector3(0, 0, 1));
  const middle = times(add(from, to), 0.5);
  return geometry.applyMatrix4(new Matrix4().makeRotationFromQuaternion(turn).setPosition(...middle));
}

/** The numbers of a shape, by the kind's own names. */
export const number = (shape: Shape, kind: string, name: string) => shape[kind]![name] as number;
const place = (shape: Shape, kind: string, name: string) => shape[kind]![name] as unknown as Vec;
const list = (shape: Shape, kind: string, name: string) => shape[kind]![name] as unknown as Vec[];

/** `fine`: how round what is round is; less in a crowd. */
export function solidOf(shape: Shape, fine = true): BufferGeometry {
  const kind = Object.keys(shape)[0]!;
  const n = (name: string) => number(shape, kind, name), p = (name: string) => place(shape, kind, name);
  switch (kind) {
    case 'ball': return (fine ? new SphereGeometry(n('radius'), 20, 14) : new SphereGeometry(n('radius'), 6, 4)).translate(...p('center'));
    case 'capsule': return stood(new CapsuleGeometry(n('radius'), size(minus(p('to'), p('from'))), fine ? 6 : 1, fine ? 16 : 6), p('from'), p('to'));
    case 'cylinder':
      return stood(new CylinderGeometry(n('radius'), n('radius'), size(minus(p('to'), p('from'))), fine ? 24 : 8), p('from'), p('to'));
    case 'cone': return stood(new ConeGeometry(n('radius'), size(minus(p('apex'), p('base'))), fine ? 24 : 8), p('base'), p('apex'));
    case 'box': {
      const half = p('half'), turn = shape[kind]!['turn'] as unknown as Turn;
      return new BoxGeometry(2 * half[0], 2 * half[1], 2 * half[2]).applyMatrix4(matrixOf({ at: p('center'), turn }));
    }
    case 'triangle': {
      const [a, b, c] = list(shape, kind, 'points');
      const out = new BufferGeometry();
      out.setAttribute('position', new Float32BufferAttribute([...a!, ...b!, ...c!, ...a!, ...c!, ...b!], 3));
      out.computeVertexNormals();
      return out;
    }
    default: return hullOf(list(shape, kind, 'points'));
  }
}

function hullOf(points: Vec[]): BufferGeometry {
  // A flat or thin one has no inside that could be meshed: as thick as a hair.
  try {
    return new ConvexGeometry(points.map(vector));
  } catch {
    const out = new BufferGeometry();
    out.setAttribute('position', new Float32BufferAttribute(points.flatMap((p) => [...p]), 3));
    return out;
  }
}

const kChord = Math.PI / 36;
function arc(radius: number, from: number, to: number, z: number): Vec[] {
  const chords = Math.max(2, Math.ceil((to - from) / kChord));
  return Array.from({ length: chords + 1 }, (_, i): Vec => {
    const a = from + ((to - from) * i) / chords;
    return [radius * Math.cos(a), radius * Math.sin(a), z];
  });
}
const closed = (line: Vec[]): Vec[] => [...line, line[0]!];
const upright = (line: Vec[]): Vec[] => line.map(([x, y, z]): Vec => [x, z, y]);
const across = (line: Vec[]): Vec[] => line.map(([x, y]): Vec => [0, x, y]);

function tube(from: Vec, to: Vec, radius: number, rounded: boolean): Vec[][] {
  const along = minus(to, from), far = size(along);
  const x: Vec = far > 0 ? times(along, 1 / far) : [1, 0, 0];
  const side = cross(Math.abs(x[2]) < 0.9 ? [0, 0, 1] : [0, 1, 0], x);
  const y = times(side, 1 / size(side)), z = cross(x, y);
  return [y, z].map((aside) => {
    const half = (end: Vec, sign: number) =>
      Array.from({ length: 17 }, (_, i): Vec => {
        const a = (Math.PI * i) / 16 - Math.PI / 2;
        const ahead = rounded ? Math.cos(a) * radius : 0;
        return add(end, times(add(times(x, ahead), times(aside, Math.sin(a) * radius)), sign));
      });
    return closed([...half(to, 1), ...half(from, -1)]);
  });
}

function bars(corners: readonly (readonly [number, number])[], low: number, high: number): Vec[][] {
  const loop = (z: number) => closed(corners.map((c): Vec => [c[0], c[1], z]));
  return [loop(low), loop(high), ...corners.map((c): Vec[] => [[c[0], c[1], low], [c[0], c[1], high]])];
}

/** The lines by which an area is drawn. */
export function linesOf(shape: Shape): Vec[][] {
  const kind = Object.keys(shape)[0]!;
  const n = (name: string) => number(shape, kind, name), p = (name: string) => place(shape, kind, name);
  const whole = (r: number, z = 0) => arc(r, -Math.PI, Math.PI, z);
  switch (kind) {
    case 'ball':
    case 'shell': {
      const out: Vec[][] = [];
      for (const r of kind === 'ball' ? [n('radius')] : [n('near'), n('far')]) {
        if (!(r > 0)) continue;
        out.push(whole(r), upright(whole(r)), across(whole(r)));
      }
      return out;
    }
    case 'ring':
    case 'sector': {
      const angle = kind === 'ring' ? 2 * Math.PI : n('angle'), half = angle / 2, out: Vec[][] = [];
      const round = angle >= 2 * Math.PI - 1e-9;
      for (const z of [n('low'), n('high')]) {
        const outer = arc(n('far'), -half, half, z), inner = arc(n('near'), -half, half, z);
        if (round) out.push(outer, ...(n('near') > 0 ? [inner] : []));
        else out.push(closed([...outer, ...inner.reverse()]));
      }
      for (const a of [-half, half, -half / 2, half / 2]) {
        for (const r of [n('near'), n('far')])
          out.push([[r * Math.cos(a), r * Math.sin(a), n('low')], [r * Math.cos(a), r * Math.sin(a), n('high')]]);
      }
      return out;
    }
    case 'cone': {
      const half = n('angle') / 2;
      const level = closed([...arc(n('far'), -half, half, 0), ...arc(n('near'), -half, half, 0).reverse()]);
      const out = [level, upright(level)];
      for (const r of [n('near'), n('far')]) {
        if (r > 0 && half < Math.PI)
          out.push(whole(r * Math.sin(half)).map(([x, y]): Vec => [r * Math.cos(half), x, y]));
      }
      return out;
    }
    case 'box': {
      const h = p('half');
      return bars([[-h[0], -h[1]], [h[0], -h[1]], [h[0], h[1]], [-h[0], h[1]]], -h[2], h[2]);
    }
    case 'prism': return bars(shape[kind]!['polygon'] as unknown as [number, number][], n('low'), n('high'));
    case 'beam': return tube([0, 0, 0], [n('length'), 0, 0], n('radius'), false);
    case 'capsule': return tube(p('from'), p('to'), n('radius'), true);
    case 'half_space': {
      const w = 12;
      return [[[0, -w, 0], [0, w, 0]], [[0, 0, -w / 2], [0, 0, w / 2]],
        ...[-2, -1, 0, 1, 2].map((i): Vec[] => [[0, (i * w) / 2, 0], [w / 9, (i * w) / 2, 0]])];
    }
    default: {
      // The edges of the hull's faces.
      const geometry = hullOf(list(shape, kind, 'points')), at = geometry.getAttribute('position');
      const out: Vec[][] = [];
      for (let i = 0; i + 2 < at.count; i += 3) {
        const corner = (k: number): Vec => [at.getX(i + k), at.getY(i + k), at.getZ(i + k)];
        out.push([corner(0), corner(1), corner(2), corner(0)]);
      }
      return out;
    }
  }
}

/** As pairs of ends, for one set of lines. */
export function segmentsOf(lines: readonly Vec[][]): number[] {
  const out: number[] = [];
  for (const line of lines) {
    for (let i = 1; i < line.length; ++i) out.push(...line[i - 1]!, ...line[i]!);
  }
  return out;
}
