import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { Launch, Strike, Verdict } from '../src/data';
import { concernedIn, differences, eventsOf, factorsOf, kNoFilter, passes, plain } from '../src/fates';
import { fromLink, toLink } from '../src/link';

const strike = (body: string, time: number, arriving = 10): Strike => ({
  body, zone: 'trunk', time, distance: 3, point: [0, 0, 0], power: { base: 5, zone: 2, arriving },
});
const verdict = (body: string, text: number, more: Partial<Verdict> = {}): Verdict => ({ body, text, gates: [], ...more });
const launch = (strikes: Strike[], verdicts: Verdict[]): Launch => ({
  launch: 'a', attack: 'b', by: 'mara', ended: 'spent', end_text: 'spent', origin: [0, 0, 0], end: [0, 0, 0], span: [0, 2],
  strikes, verdicts, gates: [], texts: ['struck', 'too far', 'behind crate-3'], sketch: [],
});

test('a filter takes those who pass all of it', () => {
  const v = verdict('Raider-3', 1, { reason: 'too_far', near: true });
  assert.ok(passes(kNoFilter, v, 'raiders'));
  assert.ok(passes({ text: 'raid', faction: 'raiders', fate: 'near', reason: 'too_far' }, v, 'raiders'));
  for (const no of [{ text: 'crab' }, { faction: 'crabs' }, { fate: 'struck' as const }, { reason: 'wall' }])
    assert.ok(!passes({ ...kNoFilter, ...no }, v, 'raiders'));
  assert.ok(!passes({ ...kNoFilter, fate: 'spared' }, verdict('x', 0, { strike: 1 }), ''));
});

test('fates differ by who is struck and how, not by how far the others are', () => {
  const here = launch([strike('a', 1), strike('b', 1)], [verdict('a', 0, { strike: 1 }), verdict('b', 0, { strike: 2 }), verdict('c', 1), verdict('d', 1)]);
  const there = launch([strike('b', 1, 20)], [verdict('a', 2), verdict('b', 0, { strike: 1 }), verdict('c', 2)]);
  assert.deepEqual(differences(here, there), [
    { body: 'a', here: 'struck, power 10', there: 'behind crate-3' },
    { body: 'b', here: 'struck, power 10', there: 'struck, power 20' },
    { body: 'd', here: 'too far', there: 'is not in this scene' },
  ]);
  assert.deepEqual(differences(here, here), []);
});

test('names are first of whom it concerns', () => {
  const l = launch([strike('a', 1), strike('a', 2)], [verdict('a', 0, { strike: 1 }), verdict('b', 1, { near: true }), verdict('c', 2, { by_body: 'd' })]);
  assert.deepEqual(concernedIn(l, 9), ['mara', 'a', 'b', 'd']);
  assert.deepEqual(concernedIn(l, 2), ['mara', 'a']);
});

test('events are in order, and one at one time', () => {
  const events = eventsOf(launch([strike('b', 1.5), strike('a', 1), strike('c', 1)], []));
  assert.deepEqual(events.map((e) => e.time), [0, 1, 1.5, 2]);
  assert.match(events[1]!.what, /a; strike 3: c/);
  const many = eventsOf(launch(Array.from({ length: 9 }, (_, i) => strike(`r${i}`, 1)), []));
  assert.equal(many[1]!.what, 'strike 1: r0; strike 2: r1; strike 3: r2; strike 4: r3; and 5 more');
});

test('what arrives is no factor, and numbers are told in six digits', () => {
  assert.deepEqual(factorsOf(strike('a', 0)), [['base', 5], ['zone', 2]]);
  assert.equal(plain(18.252900000001), '18.2529');
  assert.equal(plain(40), '40');
});

test('a link reopens what it was made of, and nothing of a broken one is believed', () => {
  const place = { launch: 'a & b #1', time: 1.25, body: '<img src=x>', looks: 'plan', camera: [1, 2, 3, 4, 5, 6, 0.5] };
  assert.deepEqual(fromLink(toLink(place)), place);
  assert.deepEqual(fromLink('#t=Infinity&view=javascript:alert(1)&camera=1,2,3'), {});
  assert.deepEqual(fromLink('#camera=1,2,3,4,5,6,-1&t=nan'), {});
  assert.deepEqual(fromLink(''), {});
});
