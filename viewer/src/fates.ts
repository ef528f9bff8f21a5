// What became of bodies: whom a launch concerns, which rows a table shows, where two fates differ.
import type { Launch, Scene, Strike, Verdict } from './data';

/** The attacker, whom it struck, whom it nearly struck, and who stood in the way; so many at most. */
export function concernedIn(launch: Launch, most: number): string[] {
  const out = new Set<string>();
  if (launch.by) out.add(launch.by);
  for (const s of launch.strikes) {
    if (out.size >= most) break;
    out.add(s.body);
  }
  for (const v of launch.verdicts) {
    if (out.size >= most) break;
    if (v.near) out.add(v.body);
    if (v.by_body) out.add(v.by_body);
  }
  return [...out].slice(0, most);
}

export interface Filter {
  text: string;
  faction: string; // by name; '' any
  fate: 'all' | 'struck' | 'spared' | 'near';
  reason: string; // '' any
}
export const kNoFilter: Filter = { text: '', faction: '', fate: 'all', reason: '' };

export function passes(filter: Filter, verdict: Verdict, faction: string): boolean {
  const struck = verdict.strike !== undefined;
  if (filter.fate === 'struck' && !struck) return false;
  if (filter.fate === 'spared' && struck) return false;
  if (filter.fate === 'near' && !verdict.near) return false;
  if (filter.faction && faction !== filter.faction) return false;
  if (filter.reason && verdict.reason !== filter.reason) return false;
  return !filter.text || verdict.body.toLowerCase().includes(filter.text.toLowerCase());
}

export function factionsOf(scene: Scene): Map<string, string> {
  return new Map(scene.bodies.map((b) => [b.id, scene.factions[b.faction] ?? '']));
}

export interface Difference {
  body: string;
  here: string;
  there: string;
}
function fate(launch: Launch, v: Verdict): string {
  if (v.strike === undefined) return launch.texts[v.text] ?? '';
  const times = launch.strikes.filter((s) => s.body === v.body);
  const power = times.reduce((sum, s) => sum + s.power.arriving, 0);
  return `struck${times.length > 1 ? ` ${times.length} times` : ''}, power ${plain(power)}`;
}
/** Bodies that are struck in one and spared in the other, or struck otherwise; each with why. */
export function differences(here: Launch, there: Launch): Difference[] {
  const others = new Map(there.verdicts.map((v) => [v.body, v]));
  const out: Difference[] = [];
  for (const v of here.verdicts) {
    const other = others.get(v.body);
    const mine = fate(here, v), theirs = other ? fate(there, other) : 'is not in this scene';
    const struck = v.strike !== undefined, alsoStruck = other?.strike !== undefined;
    if (other && struck === alsoStruck && (!struck || mine === theirs)) continue;
    out.push({ body: v.body, here: mine, there: theirs });
  }
  return out;
}

/** Numbers as people read them: six digits, no trailing zeros. */
export function plain(value: number): string {
  if (Number.isInteger(value)) return String(value);
  return String(Number(value.toPrecision(6)));
}

/** The factors of a strike's power. */
export function factorsOf(strike: Strike): [string, number][] {
  return Object.entries(strike.power).filter(([name]) => name !== 'arriving');
}

export interface Step {
  time: number;
  whom: string; // the body that it comes to
  what: string;
}
/** What a strike does, in words: each effect with whom it comes to, if that is another. */
export function effectsOf(strike: Strike): string[] {
  const out = (strike.effects ?? []).map((e) => (e.on && e.on !== strike.body ? `${e.on}: ${e.text}` : e.text));
  for (const e of strike.spared ?? []) out.push(`effect ${e.effect + 1} spared: ${e.text}`);
  if (strike.felled) out.push('felled by it');
  return out;
}
/** The whole course: strikes with what they do, releases, and what statuses do, by time. */
export function courseOf(launch: Launch): Step[] {
  const kRanks = ['released', 'struck', 'ticked', 'over'];
  const out: (Step & { rank: number })[] = [];
  for (const s of launch.strikes) {
    const by = [s.by, s.attack].filter(Boolean).join(', ');
    out.push({ time: s.time, whom: s.body, what: [`struck${by ? ` by ${by}` : ''}`, ...effectsOf(s)].join('; '), rank: 1 });
  }
  for (const h of launch.happenings ?? []) out.push({ time: h.time, whom: h.on ?? '', what: h.text, rank: kRanks.indexOf(h.what) });
  return out.sort((a, b) => a.time - b.time || a.rank - b.rank);
}

/** Times at which something happens, in order, each once. */
export function eventsOf(launch: Launch): { time: number; what: string }[] {
  const out: { time: number; what: string }[] = [{ time: launch.span[0], what: 'launched' }];
  launch.strikes.forEach((s, i) => out.push({ time: s.time, what: `strike ${i + 1}: ${s.body}` }));
  for (const h of launch.happenings ?? []) out.push({ time: h.time, what: h.text });
  for (const m of launch.surfaces ?? []) out.push({ time: m.time, what: `${m.wall ?? 'the ground'}: ${m.did}` });
  for (const m of launch.sketch) {
    if (m.lasting) out.push({ time: m.lasting.from, what: 'begins' }, { time: m.lasting.to, what: 'over' });
    if (m.ring) out.push({ time: m.ring.time, what: 'area' });
    if (m.area) out.push({ time: m.area.time, what: 'area' });
    if (m.hop) out.push({ time: m.hop.arrives, what: `hop ${m.hop.number}` });
    if (m.flight && m.flight.pieces.length) {
      out.push({ time: m.flight.pieces[0]!.from, what: 'shot' });
      out.push({ time: m.flight.pieces[m.flight.pieces.length - 1]!.to, what: `shot ends: ${m.flight.ended}` });
    }
  }
  out.push({ time: launch.span[1], what: launch.end_text });
  out.sort((a, b) => a.time - b.time);
  // What comes at one time is told together: the first few, and how many more.
  const kTold = 4;
  const merged: { time: number; what: string }[] = [];
  for (let i = 0; i < out.length;) {
    const first = out[i]!, told = new Set<string>();
    let k = i;
    for (; k < out.length && out[k]!.time - first.time < 1e-9; ++k) told.add(out[k]!.what);
    const few = [...told].slice(0, kTold).join('; ');
    merged.push({ time: first.time, what: told.size > kTold ? `${few}; and ${told.size - kTold} more` : few });
    i = k;
  }
  return merged;
}
