import type { Launch, Report, Scene, Sentence, Strike, Vec, Verdict, Words } from './data';
import { courseOf, differences, effectsOf, eventsOf, factionsOf, factorsOf, kNoFilter, passes, plain, type Difference, type Filter, type Step } from './fates';
import { fromLink, toLink } from './link';
import { lastBegun, minus, size } from './motion';
import { Table, nameButton, note } from './tables';
import { View, type Looks } from './view';

const started = performance.now();
const $ = <T extends HTMLElement>(id: string) => document.getElementById(id) as T;
const report = JSON.parse($('data').textContent ?? '') as Report;
const scene: Scene = report.scenes[0]!;
const other: Scene | undefined = report.scenes[1];
const factions = factionsOf(scene);
const factionNumber = new Map(scene.bodies.map((b) => [b.id, b.faction]));

let launch: Launch = scene.launches[0]!;
let events = eventsOf(launch);
let time = launch.span[0];
let told: (typeof events)[number] | undefined;
let chosen: string | null = null;
let playing = false;
let filter: Filter = { ...kNoFilter };
let measuring = false;
let measuredFrom: Vec | null = null;

// Both stages have their room before anything is drawn in them.
$('other').hidden = !other;
const view = makeView($('stage'), scene);
const beside = other ? makeView($('other'), other) : null;

function makeView(stage: HTMLElement, of: Scene): View | null {
  try {
    return new View(stage, of);
  } catch (fault) {
    const says = note(`This browser draws no three-dimensional scenes (${String(fault)}). Tables, gates and times are all here.`);
    says.classList.add('warning');
    stage.append(says);
    return null;
  }
}
const views = [view, beside].filter((v): v is View => v !== null);
/** The launch of the second scene that goes with this one: of the same name, else of the same number. */
function partner(): Launch | undefined {
  return other?.launches.find((l) => l.launch === launch.launch) ?? other?.launches[scene.launches.indexOf(launch)];
}

// ---- tables

const seconds = (t: number) => `${t.toFixed(3)} s`;
const length = (m: number) => `${m.toFixed(2)} ${scene.unit}`;
const place = (p: Vec) => {
  const y = scene.y_down ? -p[1] : p[1];
  return `(${(scene.flat ? [p[0], y] : [p[0], y, p[2]]).map((v) => v.toFixed(2)).join(', ')})`;
};

const strikes = new Table<Strike>(
  $('panel-strikes'), 'Strikes', [
    { head: '#', number: true, cell: (s) => String(launch.strikes.indexOf(s) + 1) },
    { head: 'Body', cell: (s) => nameButton(s.body, factionNumber.get(s.body) ?? 0) },
    { head: 'Zone', cell: (s) => s.zone },
    { head: 'Time', number: true, cell: (s) => seconds(s.time) },
    { head: 'Distance', number: true, cell: (s) => length(s.distance) },
    { head: 'Power', number: true, cell: (s) => plain(s.power.arriving) },
  ],
  (s) => { choose(s.body); goTo(s.time); }, (s) => light(s?.body ?? null), markRows);
const course = new Table<Step>(
  $('panel-course'), 'What happens', [
    { head: 'Time', number: true, cell: (s) => seconds(s.time) },
    { head: 'Body', cell: (s) => nameButton(s.whom, factionNumber.get(s.whom) ?? 0) },
    { head: 'What', cell: (s) => s.what },
  ],
  (s) => { choose(s.whom); goTo(s.time); }, (s) => light(s?.whom ?? null), markRows);
const bodies = new Table<Verdict>(
  $('panel-bodies'), 'Bodies', [
    { head: 'Body', cell: (v) => nameButton(v.body, factionNumber.get(v.body) ?? 0) },
    { head: 'Faction', cell: (v) => factions.get(v.body) ?? '' },
    { head: 'Fate', cell: (v) => launch.texts[v.text] ?? '' },
  ],
  (v) => choose(v.body), (v) => light(v?.body ?? null), markRows);
const fates = new Table<Difference>(
  $('panel-fates'), 'Bodies with another fate', [
    { head: 'Body', cell: (d) => nameButton(d.body, factionNumber.get(d.body) ?? 0) },
    { head: scene.name, cell: (d) => d.here },
    { head: other?.name ?? '', cell: (d) => d.there },
  ],
  (d) => choose(d.body), (d) => light(d?.body ?? null), markRows);

function fillTables() {
  const verdicts = new Map(launch.verdicts.map((v) => [v.body, v]));
  const let_through = (id: string) => {
    const v = verdicts.get(id);
    return v !== undefined && passes(filter, v, factions.get(id) ?? '');
  };
  strikes.set(launch.strikes.filter((s) => let_through(s.body)));
  course.set(courseOf(launch).filter((s) => let_through(s.whom)));
  bodies.set(launch.verdicts.filter((v) => let_through(v.body)));
  const there = partner();
  if (there) fates.set(differences(launch, there).filter((d) => let_through(d.body)));
}

function markRows() {
  for (const [node, s] of strikes.shown) {
    node.classList.toggle('later', s.time > time), node.classList.toggle('chosen', s.body === chosen);
  }
  for (const [node, s] of course.shown) {
    node.classList.toggle('later', s.time > time), node.classList.toggle('chosen', s.whom === chosen);
  }
  for (const [node, v] of bodies.shown) node.classList.toggle('chosen', v.body === chosen);
  for (const [node, d] of fates.shown) node.classList.toggle('chosen', d.body === chosen);
}

function light(id: string | null) {
  for (const v of views) v.light(id);
}

// ---- one body

function choose(id: string | null) {
  if (measuring && id !== null) measureTo(view?.middleOf(id) ?? null);
  chosen = id;
  for (const v of views) v.select(id);
  markRows();
  if (id !== null) {
    strikes.turnTo((s) => s.body === id);
    bodies.turnTo((v) => v.body === id);
    fates.turnTo((d) => d.body === id);
  }
  fillDetail();
  keepLink();
}

function rowOf(cells: (string | Node)[], kind: 'td' | 'th', numbers: number[] = []): HTMLTableRowElement {
  const tr = document.createElement('tr');
  cells.forEach((c, i) => {
    const cell = document.createElement(kind);
    if (kind === 'th') (cell as HTMLTableCellElement).scope = 'col';
    if (numbers.includes(i)) cell.className = 'number';
    cell.append(c);
    tr.append(cell);
  });
  return tr;
}

function gatesOf(v: Verdict, of: Launch): HTMLElement {
  const table = document.createElement('table'), body = document.createElement('tbody'), head = document.createElement('thead');
  head.append(rowOf(['Gate', 'What it found', 'Measured', 'Limit', 'Margin'], 'th', [2, 3, 4]));
  for (const [gate, reason, measured, limit, margin, text, stage, share] of v.gates.map((g) => of.gates[g]!)) {
    const number = (x: number | null) => (x === null ? '' : share ? `${(100 * x).toFixed(1)} %` : plain(Math.round(x * 1e4) / 1e4));
    const name = document.createElement('span');
    name.className = reason === 'none' ? 'verdict-passed' : 'verdict-stopped';
    name.textContent = gate + (stage > 0 ? ` (follows ${stage})` : '');
    name.setAttribute('aria-label', `${gate}, ${reason === 'none' ? 'passed' : 'stopped'}`);
    name.setAttribute('role', 'img');
    body.append(rowOf([name, of.texts[text] ?? '', number(measured), number(limit), number(margin)], 'td', [2, 3, 4]));
  }
  table.append(head, body);
  return table;
}

function strikesOn(id: string, of: Launch): HTMLElement[] {
  return of.strikes.flatMap((s, i) => {
    if (s.body !== id) return [];
    const factors = factorsOf(s).map(([name, v]) => `${name} ${plain(v)}`).join(' x ');
    const lines = [`Strike ${i + 1} at ${seconds(s.time)} on ${s.zone}, ${place(s.point)}: power ${plain(s.power.arriving)} = ${factors}`];
    if (s.cause) lines.push(`caused by strike ${s.cause}`);
    if (s.hop) lines.push(`hop ${s.hop}`);
    if (s.by) lines.push(`by ${s.by}, ${s.attack ?? ''}`);
    lines.push(...effectsOf(s));
    return lines.map((text) => {
      const p = document.createElement('p');
      p.textContent = text;
      return p;
    });
  });
}

function fillDetail() {
  const home = $('detail');
  home.replaceChildren();
  const v = launch.verdicts.find((one) => one.body === chosen);
  if (!v) {
    home.append(note('Choose a body, in the scene or in a table, to see every gate it came to.'));
    return;
  }
  const name = document.createElement('h2');
  name.textContent = v.body;
  const fate = document.createElement('p');
  fate.textContent = `${factions.get(v.body) ?? ''}; ${launch.texts[v.text] ?? ''}`;
  home.append(name, fate, ...strikesOn(v.body, launch), gatesOf(v, launch));
  const there = partner(), other_one = there?.verdicts.find((one) => one.body === chosen);
  if (!there || !other_one) return;
  const title = document.createElement('h2');
  title.textContent = `in ${other!.name}: ${there.texts[other_one.text] ?? ''}`;
  home.append(title, ...strikesOn(other_one.body, there), gatesOf(other_one, there));
}

// ---- time

function goTo(t: number) {
  time = Math.min(Math.max(t, launch.span[0]), lastTime());
  for (const v of views) v.update(time);
  const slider = $<HTMLInputElement>('time');
  slider.value = String(time);
  slider.setAttribute('aria-valuetext', seconds(time));
  $('now').textContent = seconds(time);
  const last = events[lastBegun(events, time + 1e-9, (e) => e.time)];
  if (last !== told) $('event').textContent = $('event').title = last?.what ?? '';
  // Rows of strikes still to come look otherwise: only after an event others do.
  if (last !== told) markRows();
  told = last;
  if (!playing) keepLink();
}
function lastTime(): number {
  return Math.max(launch.span[1], partner()?.span[1] ?? -Infinity);
}
function step(by: 1 | -1) {
  stop();
  const next = by > 0 ? events.find((e) => e.time > time + 1e-9) : [...events].reverse().find((e) => e.time < time - 1e-9);
  if (next) goTo(next.time);
}

let lastFrame = 0;
const frames: { work: number; draw: number }[] = [];
function frame(now: number) {
  if (!playing) return;
  const start = performance.now();
  const speed = Number($<HTMLSelectElement>('speed').value);
  const next = time + ((now - lastFrame) / 1000) * speed;
  lastFrame = now;
  const over = next >= lastTime();
  goTo(next);
  for (const v of views) v.draw();
  const draw = views.reduce((sum, v) => sum + v.spent.draw, 0);
  frames.push({ work: performance.now() - start - draw, draw });
  if (frames.length > 2000) frames.shift();
  if (over) return stop();
  requestAnimationFrame(frame);
}
function play() {
  if (time >= lastTime() - 1e-9) goTo(launch.span[0]);
  playing = true;
  lastFrame = performance.now();
  $('play').textContent = 'Stop';
  requestAnimationFrame(frame);
}
function stop() {
  if (!playing) return;
  playing = false;
  $('play').textContent = 'Play';
  keepLink();
}

function drawTicks() {
  const home = $('ticks'), [from] = launch.span, to = lastTime();
  home.replaceChildren();
  const at = (t: number) => (to > from ? `${(100 * (t - from)) / (to - from)}%` : '0');
  // Where thousands fall on one pixel, one tick says as much.
  const kMost = 400;
  const seen = new Set<string>();
  for (const s of launch.strikes) {
    const key = to > from ? String(Math.round((kMost * (s.time - from)) / (to - from))) : '0';
    if (seen.has(key)) continue;
    seen.add(key);
    const tick = document.createElement('i');
    tick.className = 'strike', tick.style.left = at(s.time);
    home.append(tick);
  }
  for (const e of events.slice(0, kMost)) {
    const tick = document.createElement('i');
    tick.style.left = at(e.time);
    home.prepend(tick);
  }
}

// ---- a launch

function showLaunch(next: Launch) {
  stop();
  launch = next;
  events = eventsOf(launch);
  const there = partner();
  if (there) {
    events = [...events, ...eventsOf(there).map((e) => ({ time: e.time, what: `${other!.name}: ${e.what}` }))].sort((a, b) => a.time - b.time);
  }
  $<HTMLSelectElement>('launch').value = String(scene.launches.indexOf(launch));
  const struck = launch.verdicts.filter((v) => v.strike !== undefined).length;
  const summary = `${struck} of ${launch.verdicts.length} struck; ${launch.end_text}`;
  $('summary').textContent = [summary, ...(launch.warnings ?? []), ...(launch.limits_met ?? []).map((l) => l.text)].join('; ');
  $('summary').title = $('summary').textContent ?? '';
  const slider = $<HTMLInputElement>('time');
  slider.min = String(launch.span[0]), slider.max = String(lastTime());
  const reasons = [...new Set(launch.verdicts.flatMap((v) => (v.reason ? [v.reason] : [])))].sort();
  fillSelect($('filter-reason'), reasons, filter.reason);
  if (!reasons.includes(filter.reason)) filter.reason = '';
  view?.show(launch);
  if (beside && there) beside.show(there);
  fillTables();
  fillAttack();
  drawTicks();
  goTo(launch.span[1]);
  fillDetail();
}

function fillSelect(select: HTMLSelectElement | HTMLElement, values: string[], value: string) {
  const any = document.createElement('option');
  any.value = '', any.textContent = 'any';
  select.replaceChildren(any, ...values.map((v) => {
    const o = document.createElement('option');
    o.value = v, o.textContent = v.replaceAll('_', ' ');
    return o;
  }));
  (select as HTMLSelectElement).value = values.includes(value) ? value : '';
}

function listOf(sentences: Sentence[]): HTMLElement {
  const out = document.createElement('ul');
  out.className = 'words';
  for (const s of sentences) {
    const item = document.createElement('li');
    item.textContent = s.text, item.style.marginLeft = `${s.depth * 1.2}em`;
    out.append(item);
  }
  return out;
}
function headed(text: string): HTMLElement {
  const out = document.createElement('h2');
  out.textContent = text;
  return out;
}
/** What levels say otherwise, side by side; the first column is the attack itself. */
function levelsOf(words: Words): HTMLElement[] {
  if (!words.levels?.rows) return [];
  const table = document.createElement('table'), head = document.createElement('thead'), body = document.createElement('tbody');
  head.append(rowOf(['Level', 'itself', ...words.levels.names], 'th'));
  for (const row of words.levels.rows) {
    const tr = rowOf([row.pointer, ...row.values.map((v) => v || '–')], 'td');
    tr.title = row.says;
    body.append(tr);
  }
  table.append(head, body);
  return [headed('Levels'), table];
}
function attackOf(of: Scene, name: string): HTMLElement[] {
  const out: HTMLElement[] = [];
  const words = of.words[name];
  if (words) {
    const line = document.createElement('p');
    line.textContent = words.line;
    out.push(line, listOf(words.text));
    if (words.bad_at.length) out.push(headed('What keeps it from striking'), listOf(words.bad_at));
    out.push(...levelsOf(words));
  }
  const data = document.createElement('pre');
  data.textContent = JSON.stringify(of.attacks[name] ?? {}, null, 2), data.tabIndex = 0;
  out.push(headed('Its data'), data);
  return out;
}

function fillAttack() {
  const home = $('panel-attack');
  // Of all together every attack.
  const names = launch.attack ? [launch.attack] : Object.keys(scene.attacks);
  home.replaceChildren(...names.flatMap((name) => [headed(name), ...attackOf(scene, name)]));
  const theirs = partner() && other!.attacks[partner()!.attack];
  if (!theirs || JSON.stringify(theirs) === JSON.stringify(scene.attacks[launch.attack])) return;
  home.append(headed(`in ${other!.name}`), ...attackOf(other!, partner()!.attack));
}

// ---- measuring

function setMeasuring(on: boolean) {
  measuring = on;
  measuredFrom = null;
  $('measure').setAttribute('aria-pressed', String(on));
  $('measured').textContent = on ? 'Click two places, or choose two bodies' : '';
  view?.measured(null, null);
  if (on && chosen !== null) measureTo(view?.middleOf(chosen) ?? null);
}
function measureTo(at: Vec | null) {
  if (!at) return;
  if (!measuredFrom) {
    measuredFrom = at;
    $('measured').textContent = `From ${place(at)} to…`;
    view?.measured(null, null);
    return;
  }
  const off = minus(at, measuredFrom);
  const level = Math.hypot(off[0], off[1]);
  $('measured').textContent = scene.flat ? length(size(off)) : `${length(size(off))}; level ${length(level)}, up ${length(off[2])}`;
  view?.measured(measuredFrom, at);
  measuredFrom = null;
}

// ---- the camera

function look(looks: Looks) {
  for (const v of views) v.look(looks);
  markLooks();
  keepLink();
}
function markLooks() {
  for (const b of document.querySelectorAll<HTMLElement>('[data-look]')) b.setAttribute('aria-pressed', String(b.dataset['look'] === view?.looks));
  drawScale();
}
function drawScale() {
  if (!view) return;
  const width = $('stage').clientWidth, metres = (view.span * 120) / width;
  const power = 10 ** Math.floor(Math.log10(metres)), lead = metres / power;
  const round = power * (lead >= 5 ? 5 : lead >= 2 ? 2 : 1);
  $('scale').style.width = `${(round / view.span) * width}px`;
  $('scale').firstElementChild!.textContent = `${plain(round)} ${scene.unit}`;
}
let following = false;
for (const v of views) {
  v.onMoved = () => {
    if (following) return;
    following = true;
    for (const w of views) {
      if (w !== v) w.place = v.place;
    }
    following = false;
    drawScale();
    keepLinkSoon();
  };
  v.onPicked = (id, at) => {
    if (measuring && id === null) return measureTo(at);
    choose(id);
  };
}

// ---- links

let soon = 0;
function keepLinkSoon() {
  clearTimeout(soon);
  soon = window.setTimeout(keepLink, 200);
}
function keepLink() {
  if (!ready) return;
  const link = toLink({ launch: launch.launch, time, body: chosen, looks: view?.looks ?? 'orbit', camera: view?.place ?? [0, 0, 1, 0, 0, 0, 1] });
  history.replaceState(null, '', link);
}
function openLink() {
  const wanted = fromLink(location.hash);
  const named = scene.launches.find((l) => l.launch === wanted.launch);
  // Of one course of events the first is all of it.
  showLaunch(named ?? scene.launches[0]!);
  look((wanted.looks as Looks | undefined) ?? (scene.flat ? 'plan' : 'orbit'));
  if (wanted.camera) {
    for (const v of views) v.place = wanted.camera;
  }
  if (wanted.time !== undefined) goTo(wanted.time);
  choose(launch.verdicts.some((v) => v.body === wanted.body) ? wanted.body ?? null : null);
}
let ready = false;

// ---- hands

function tab(name: string) {
  for (const t of document.querySelectorAll<HTMLElement>('[role="tab"]')) {
    const on = t.id === `tab-${name}`;
    t.setAttribute('aria-selected', String(on)), (t.tabIndex = on ? 0 : -1);
    $(t.getAttribute('aria-controls')!).hidden = !on;
  }
  $('filters').hidden = name === 'attack';
}

function nextBody(by: number) {
  const rows = [...bodies.shown.values()];
  if (rows.length === 0) return;
  const at = rows.findIndex((v) => v.body === chosen);
  choose(rows[(at + by + rows.length) % rows.length]!.body);
}
function nextLaunch(by: number) {
  const at = scene.launches.indexOf(launch) + by;
  const next = scene.launches[at];
  if (next) showLaunch(next), look(view?.looks ?? 'orbit');
}
function moveCamera(x: number, y: number, zoom: number) {
  if (!view) return;
  const p = view.place, far = view.span * 0.08;
  const e = view.camera.matrixWorld.elements;
  for (const k of [0, 1, 2]) {
    const by = (e[k]! * x + e[4 + k]! * y) * far;
    p[k]! += by, p[3 + k]! += by;
  }
  p[6]! *= zoom;
  for (const v of views) v.place = p;
  drawScale();
  keepLinkSoon();
}

function key(e: KeyboardEvent) {
  const target = e.target as HTMLElement;
  if (e.ctrlKey || e.altKey || e.metaKey || $<HTMLDialogElement>('keys').open) return;
  if (target.closest('input[type="search"], select')) {
    if (e.key === 'Escape') target.blur();
    return;
  }
  const on_slider = target.id === 'time', on_button = target.closest('button') !== null, on_tab = target.getAttribute('role') === 'tab';
  const looks: Record<string, Looks> = { 1: 'orbit', 2: 'plan', 3: 'south', 4: 'east' };
  const arrows: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
  if (on_tab && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
    const all = [...document.querySelectorAll<HTMLElement>('[role="tab"]:not([hidden])')];
    const next = all[(all.indexOf(target) + (e.key === 'ArrowRight' ? 1 : all.length - 1)) % all.length]!;
    tab(next.id.slice(4)), next.focus();
  } else if (e.key === ' ' && !on_button) {
    playing ? stop() : play();
  } else if (e.key === '[' || e.key === ']') {
    step(e.key === ']' ? 1 : -1);
  } else if (e.key === ',' || e.key === '.') {
    stop(), goTo(time + (e.key === '.' ? 0.01 : -0.01));
  } else if (e.key === 'Home' && !on_slider) {
    stop(), goTo(launch.span[0]);
  } else if (e.key === 'End' && !on_slider) {
    stop(), goTo(lastTime());
  } else if (looks[e.key]) {
    look(looks[e.key]!);
  } else if (arrows[e.key] && !on_slider) {
    moveCamera(...arrows[e.key]!, 1);
  } else if (e.key === '+' || e.key === '=' || e.key === '-') {
    moveCamera(0, 0, e.key === '-' ? 1 / 1.25 : 1.25);
  } else if (e.key === 'f') {
    look(view?.looks ?? 'orbit');
  } else if (e.key === 'm') {
    setMeasuring(!measuring);
  } else if (e.key === 'j' || e.key === 'k') {
    nextBody(e.key === 'j' ? 1 : -1);
  } else if (e.key === 'n' || e.key === 'p') {
    nextLaunch(e.key === 'n' ? 1 : -1);
  } else if (e.key === '/') {
    if ($('filters').hidden) tab('bodies');
    $('filter-text').focus();
  } else if (e.key === 'Escape') {
    setMeasuring(false), choose(null);
  } else if (e.key === '?') {
    $<HTMLDialogElement>('keys').showModal();
  } else {
    return;
  }
  e.preventDefault();
}

/** On paper the scene is as it is on the screen, only smaller. */
function keepSizeForPrint() {
  const { clientWidth: width, clientHeight: height, style } = $('stages');
  if (matchMedia('print').matches) return;
  style.setProperty('--stages-width', `${width}px`), style.setProperty('--stages-height', `${height}px`);
  style.setProperty('--stages-zoom', String(Math.min(1, 680 / width, 560 / height)));
}

function wire() {
  keepSizeForPrint();
  addEventListener('resize', keepSizeForPrint);
  document.title = `${scene.title || scene.name} - Dardo report`;
  $('title').textContent = other ? `${scene.name} and ${other.name}` : scene.title || scene.name;
  $('title').title = $('title').textContent ?? '';
  const select = $<HTMLSelectElement>('launch');
  scene.launches.forEach((l, i) => {
    const o = document.createElement('option');
    o.value = String(i), o.textContent = l.attack ? `${l.launch}: ${l.attack}` : l.launch;
    select.append(o);
  });
  select.addEventListener('change', () => { showLaunch(scene.launches[Number(select.value)]!); look(view?.looks ?? 'orbit'); });
  fillSelect($('filter-faction'), scene.factions, '');
  const on_filter = () => {
    filter = {
      text: $<HTMLInputElement>('filter-text').value,
      faction: $<HTMLSelectElement>('filter-faction').value,
      fate: $<HTMLSelectElement>('filter-fate').value as Filter['fate'],
      reason: $<HTMLSelectElement>('filter-reason').value,
    };
    fillTables();
  };
  $('filters').addEventListener('input', on_filter);
  $('filters').addEventListener('submit', (e) => e.preventDefault());
  for (const t of document.querySelectorAll<HTMLElement>('[role="tab"]')) t.addEventListener('click', () => tab(t.id.slice(4)));
  for (const b of document.querySelectorAll<HTMLElement>('[data-look]')) b.addEventListener('click', () => look(b.dataset['look'] as Looks));
  $('fit').addEventListener('click', () => look(view?.looks ?? 'orbit'));
  $('measure').addEventListener('click', () => setMeasuring(!measuring));
  $('before').addEventListener('click', () => step(-1));
  $('after').addEventListener('click', () => step(1));
  $('play').addEventListener('click', () => (playing ? stop() : play()));
  $<HTMLInputElement>('time').addEventListener('input', (e) => { stop(); goTo(Number((e.target as HTMLInputElement).value)); });
  $('help').addEventListener('click', () => $<HTMLDialogElement>('keys').showModal());
  document.addEventListener('keydown', key);
  matchMedia('(prefers-color-scheme: dark)').addEventListener('change', () => {
    for (const v of views) v.paint();
    showLaunch(launch);
  });
  window.addEventListener('hashchange', openLink);
  const legend = $('legend');
  const kSigns = ['\u25cf', '\u25a0', '\u25b2', '\u25c6'];
  scene.factions.forEach((name, i) => {
    const item = document.createElement('li'), sign = document.createElement('span');
    sign.className = 'sign', sign.textContent = kSigns[i % 4]!, sign.style.color = `var(--faction-${i % 6})`;
    sign.setAttribute('aria-hidden', 'true');
    item.append(sign, name);
    if (i < 8) legend.append(item);
  });
  if (scene.flat) $('looks').querySelectorAll<HTMLElement>('[data-look]').forEach((b) => { b.hidden = true; });
  if (!other) return;
  $('tab-fates').hidden = false;
  for (const [stage, of] of [[$('stage'), scene], [$('other'), other]] as const) {
    const caption = document.createElement('p');
    caption.className = 'caption', caption.textContent = of.name;
    stage.append(caption);
  }
  tab('fates');
}

/** For tests and for whoever looks under the hood. */
declare global {
  interface Window { dardo: unknown }
}

wire();
if (scene.together) tab('course');
openLink();
ready = true;
window.dardo = {
  view, beside, report, goTo, play, stop, choose, frames,
  get time() { return time; },
  get launch() { return launch; },
  opened: performance.now() - started,
};
document.documentElement.dataset['ready'] = 'yes';
