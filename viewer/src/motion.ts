// Where things are at a time: the same closed forms as the core's, on the pieces that it wrote. Nothing here
// is between two samples; a test holds each function against the core.

import type { Hop, Lasting, Launch, Leg, Pose, Shape, ShapeNumbers, Turn, Vec, WayPiece, Body, Flight } from './data';

export const kUpright: Turn = [[1, 0, 0], [0, 1, 0], [0, 0, 1]];

export const add = (a: Vec, b: Vec): Vec => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const minus = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const times = (a: Vec, s: number): Vec => [a[0] * s, a[1] * s, a[2] * s];
export const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const size = (a: Vec): number => Math.hypot(a[0], a[1], a[2]);

/** From the turned frame into the one around it. */
export const turned = (t: Turn, v: Vec): Vec => [
  t[0][0] * v[0] + t[1][0] * v[1] + t[2][0] * v[2],
  t[0][1] * v[0] + t[1][1] * v[1] + t[2][1] * v[2],
  t[0][2] * v[0] + t[1][2] * v[1] + t[2][2] * v[2],
];
const turnOf = (a: Turn, b: Turn): Turn => [turned(a, b[0]), turned(a, b[1]), turned(a, b[2])];
export const placed = (p: Pose, v: Vec): Vec => add(p.at, turned(p.turn, v));
export const within = (a: Pose, b: Pose): Pose => ({ at: placed(a, b.at), turn: turnOf(a.turn, b.turn) });

/** About an axis one metre long (Rodrigues). */
export function about(axis: Vec, angle: number): Turn {
  const c = Math.cos(angle), s = Math.sin(angle), k = 1 - c;
  const [x, y, z] = axis;
  return [
    [c + x * x * k, y * x * k + z * s, z * x * k - y * s],
    [x * y * k - z * s, c + y * y * k, z * y * k + x * s],
    [x * z * k + y * s, y * z * k - x * s, c + z * z * k],
  ];
}

/** The number of the last that has begun; 0 before all. */
export function lastBegun<T>(list: readonly T[], time: number, begins: (one: T) => number): number {
  let low = 0, high = list.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (begins(list[middle]!) <= time) low = middle;
    else high = middle - 1;
  }
  return low;
}

export function poseOnLeg(leg: Leg, time: number): Pose {
  const facing = leg.facing ?? kUpright, moves = leg.velocity !== undefined, turns = leg.turn_rate !== undefined;
  if (!moves && !turns) return { at: leg.at, turn: facing };
  const since = time - leg.from;
  const at = leg.velocity ? add(leg.at, times(leg.velocity, since)) : leg.at;
  if (!leg.turn_rate || !leg.axis) return { at, turn: facing };
  return { at, turn: turnOf(about(leg.axis, leg.turn_rate * since), facing) };
}

export function poseOn(legs: readonly Leg[], time: number): Pose {
  if (legs.length === 0) return { at: [0, 0, 0], turn: kUpright };
  return poseOnLeg(legs[lastBegun(legs, time, (l) => l.from)]!, time);
}

/** Ways of bodies while a launch lasts, by id: those that only it knows, as of a dash. */
export function motionsOf(launch: Launch): Map<string, Leg[]> {
  const out = new Map<string, Leg[]>();
  for (const mark of launch.sketch) {
    if (mark.motion && mark.motion.legs.length > 0) out.set(mark.motion.body, mark.motion.legs);
  }
  return out;
}

export function bodyPose(body: Body, own: readonly Leg[] | undefined, time: number): Pose {
  const last = own?.[own.length - 1];
  if (own && last) {
    if (time <= last.to) return poseOn(own, Math.max(time, own[0]!.from));
    // After what the launch tells a body on a track goes on, any other stays.
    if (body.legs.length <= 1) return poseOnLeg(last, last.to);
  }
  return poseOn(body.legs, time);
}

/** What a body is like at a time: its faction, and which of its hitboxes are there. */
export function stateAt(body: Body, time: number): { faction: number; hitboxes: boolean[] | null } {
  const states = body.states;
  if (!states || states.length === 0) return { faction: body.faction, hitboxes: null };
  return states[lastBegun(states, time, (s) => s.time)]!;
}

export function placeOn(piece: WayPiece, time: number): Vec {
  const s = time - piece.from;
  let out = add(piece.at, times(piece.velocity, s));
  if (piece.acceleration) out = add(out, times(piece.acceleration, (s * s) / 2));
  if (piece.jerk) out = add(out, times(piece.jerk, (s * s * s) / 6));
  return out;
}

/** Where a shot is, at its start before and at its end after. */
export function shotAt(flight: Flight, time: number): Vec {
  const pieces = flight.pieces;
  if (pieces.length === 0) return flight.places?.[0] ?? [0, 0, 0];
  const piece = pieces[lastBegun(pieces, time, (p) => p.from)]!;
  return placeOn(piece, Math.min(Math.max(time, piece.from), piece.to));
}

/** When a shot is there. */
export function timesOf(flight: Flight): [number, number] {
  const pieces = flight.pieces;
  if (pieces.length === 0) return [flight.times?.[0] ?? 0, flight.times?.[0] ?? 0];
  return [pieces[0]!.from, pieces[pieces.length - 1]!.to];
}

/** The frame of what lasts. */
export function frameAt(mark: Lasting, time: number): Pose {
  const base: Pose = { at: mark.base.at, turn: mark.base.facing };
  return within(within(poseOn(mark.carrier, time), base), poseOn(mark.own, time));
}

type Numbers = number | readonly number[] | readonly (readonly number[])[];
function mixed(a: Numbers, b: Numbers, share: number): Numbers {
  if (typeof a === 'number') return a + ((b as number) - a) * share;
  return (a as readonly Numbers[]).map((x, i) => mixed(x, (b as readonly Numbers[])[i]!, share)) as Numbers;
}

/** Between two shapes of one kind each number is mixed. */
export function between(a: Shape, b: Shape, share: number): Shape {
  const kind = Object.keys(a)[0]!;
  const from = a[kind]!, to = b[kind]!;
  const out: Record<string, Numbers> = {};
  for (const name of Object.keys(from)) out[name] = mixed(from[name]!, to[name]!, share);
  return { [kind]: out as ShapeNumbers };
}

/** What it covers, in its frame. */
export function shapeAt(mark: Lasting, time: number): Shape {
  const sizes = mark.sizes;
  if (sizes.length === 0) return { ball: { radius: 0 } };
  const i = lastBegun(sizes, time, (s) => s.t);
  const a = sizes[i]!, b = sizes[i + 1];
  if (!b || !(time > a.t)) return a.shape;
  return between(a.shape, b.shape, (time - a.t) / (b.t - a.t));
}

/** Along the leg of a chain, by the share of its way. */
export function hopAt(hop: Hop, share: number): Vec {
  const flat = add(hop.from, times(minus(hop.to, hop.from), share));
  return [flat[0], flat[1], flat[2] + 4 * hop.arc * share * (1 - share)];
}
