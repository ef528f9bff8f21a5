// What the program writes into the page: see dardo/io/report.hpp. Metres, radians, seconds on the clock of
// tracks.

export type Vec = readonly [number, number, number];
/** Where the three axes go. */
export type Turn = readonly [Vec, Vec, Vec];
export interface Pose {
  at: Vec;
  turn: Turn;
}

/** A stretch of steady motion and steady turn. */
export interface Leg {
  from: number;
  to: number;
  at: Vec;
  facing?: Turn; // upright, along x, if it says none
  velocity?: Vec;
  axis?: Vec;
  turn_rate?: number;
}
/** A stretch of a shot's way, cubic in time. */
export interface WayPiece {
  from: number;
  to: number;
  at: Vec;
  velocity: Vec;
  acceleration?: Vec;
  jerk?: Vec;
}

/** One key, its kind, with all its numbers. */
export type Shape = Readonly<Record<string, ShapeNumbers>>;
export interface ShapeNumbers {
  readonly [name: string]: number | readonly number[] | readonly (readonly number[])[];
}

export interface Hitbox {
  zone: string;
  shape: Shape;
  factor: number;
}
export interface Body {
  id: string;
  build: string;
  faction: number;
  legs: Leg[];
  fallen?: boolean;
  states?: { time: number; faction: number; hitboxes: boolean[] }[];
}
export interface Wall {
  id: string;
  material: string;
  blocks: string[];
  parts: Shape[];
  legs: Leg[];
}

export interface Lasting {
  from: number;
  to: number;
  carrier: Leg[];
  base: { at: Vec; facing: Turn };
  own: Leg[];
  sizes: { t: number; shape: Shape }[];
  blade: boolean;
  trap: boolean;
  ended: string;
}
export interface Flight {
  pieces: WayPiece[];
  places?: Vec[];
  times?: number[];
  radius: number;
  ended: string;
}
export interface Hop {
  from: Vec;
  to: Vec;
  arc: number;
  number: number;
  start: number;
  arrives: number;
}
export interface Mark {
  path?: { from: Vec; to: Vec; radius?: number; time: number };
  ring?: { center: Vec; radius: number; time: number };
  sight?: { from: Vec; to: Vec; cut?: Vec; time: number };
  reach?: { center: Vec; near: number; far: number; time: number };
  area?: { shape: Shape; at: Vec; facing: Turn; time: number };
  flight?: Flight;
  motion?: { body: string; legs: Leg[] };
  lasting?: Lasting;
  hop?: Hop;
  dash?: { body: string; legs: Leg[]; hitboxes: Shape[]; ended: string };
}

/** Factors that are not one. */
export interface Power {
  base: number;
  arriving: number;
  [factor: string]: number;
}
/** What a strike, a release or a tick does. */
export interface Effect {
  effect: number;
  on?: string;
  text: string;
}
export interface Happening {
  what: string;
  on?: string;
  time: number;
  status?: string;
  text: string;
  felled?: boolean;
}
/** An attack in words. */
export interface Words {
  line: string;
  text: Sentence[];
  bad_at: Sentence[];
  levels?: { names: string[]; rows?: { pointer: string; says: string; values: string[] }[] };
}
export interface Sentence {
  text: string;
  depth: number;
}
export interface Strike {
  body: string;
  zone: string;
  time: number;
  distance: number;
  point: Vec;
  power: Power;
  cause?: number;
  hop?: number;
  by?: string; // the launch's own, if it says none
  attack?: string;
  felled?: boolean;
  effects?: Effect[];
  spared?: Effect[];
}
/** Gate, reason, measured, limit, margin, text, stage, whether the numbers are shares. */
export type Gate = readonly [
  string, string, number | null, number | null, number | null, number, number, boolean,
];
export interface Verdict {
  body: string;
  text: number;
  strike?: number;
  gate?: string;
  reason?: string;
  margin?: number | null;
  of_share?: boolean;
  near?: boolean;
  by_body?: string;
  gates: number[]; // of the launch's
}
export interface Surface {
  wall?: string;
  did: string;
  time: number;
  point: Vec;
}
export interface Launch {
  launch: string;
  attack: string;
  by: string | null;
  ended: string;
  end_text: string;
  origin: Vec;
  end: Vec;
  span: [number, number];
  strikes: Strike[];
  happenings?: Happening[];
  surfaces?: Surface[];
  verdicts: Verdict[];
  gates: Gate[];
  texts: string[];
  sketch: Mark[];
  warnings?: string[];
  limits_met?: { text: string; time: number }[];
}
export interface Scene {
  name: string;
  title: string;
  unit: string;
  y_down: boolean;
  flat: 'above' | 'side' | null;
  ground: { at: Vec; normal: Vec } | null;
  factions: string[];
  builds: Record<string, { hitboxes: Hitbox[] }>;
  bodies: Body[];
  walls: Wall[];
  attacks: Record<string, unknown>;
  words: Record<string, Words>;
  together?: boolean;
  launches: Launch[];
}
export interface Report {
  dardo: number;
  scenes: Scene[];
}
