// The page's module of motion against the core: DARDO_TRUTH names what tests/viewer/truth.cpp wrote.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { test } from 'node:test';
import type { Pose, Report, Shape, Turn, Vec } from '../src/data';
import { bodyPose, frameAt, hopAt, motionsOf, placeOn, poseOn, shapeAt, shotAt, timesOf } from '../src/motion';

type Numbers = [Vec, Vec, Vec, Vec];
interface Moment {
  t: number;
  bodies: Numbers[];
  walls: Numbers[];
  marks: (null | Vec | { frame: Numbers; shape: Shape })[];
}
const kNear = 1e-9;

function near(a: Vec, b: Vec, what: string) {
  for (const k of [0, 1, 2]) assert.ok(Math.abs(a[k]! - b[k]!) <= kNear * Math.max(1, Math.abs(b[k]!)), `${what}: ${a} and ${b}`);
}
function samePose(pose: Pose, truth: Numbers, what: string) {
  near(pose.at, truth[0], `${what}, place`);
  (pose.turn as Turn).forEach((axis, k) => near(axis, truth[k + 1]!, `${what}, axis ${k}`));
}
function sameShape(a: Shape, b: Shape, what: string) {
  const flat = (s: Shape) => JSON.stringify(s, (_, v: unknown) => (typeof v === 'number' ? Math.round(v * 1e8) / 1e8 : v));
  assert.equal(flat(a), flat(b), what);
}

test('everything is where the core says, at thousands of times', (t) => {
  const file = process.env['DARDO_TRUTH'];
  if (!file) return t.skip('no DARDO_TRUTH');
  const { report, truth } = JSON.parse(readFileSync(file, 'utf8')) as { report: Report; truth: Moment[][][] };
  let held = 0, shots = 0, lasting = 0, moved = 0;
  report.scenes.forEach((scene, s) => {
    scene.launches.forEach((launch, l) => {
      const motions = motionsOf(launch);
      for (const moment of truth[s]![l]!) {
        const what = `${launch.launch} at ${moment.t}`;
        scene.bodies.forEach((body, b) => {
          samePose(bodyPose(body, motions.get(body.id), moment.t), moment.bodies[b]!, `${what}: ${body.id}`);
          ++held;
          if (body.legs.length > 1 || motions.has(body.id)) ++moved;
        });
        scene.walls.forEach((wall, w) => samePose(poseOn(wall.legs, moment.t), moment.walls[w]!, `${what}: ${wall.id}`));
        launch.sketch.forEach((mark, m) => {
          const there = moment.marks[m];
          if (!there) return;
          if (mark.flight) {
            near(shotAt(mark.flight, moment.t), there as Vec, what);
            ++shots;
          } else if (mark.lasting) {
            const truly = there as { frame: Numbers; shape: Shape };
            samePose(frameAt(mark.lasting, moment.t), truly.frame, what);
            sameShape(shapeAt(mark.lasting, moment.t), truly.shape, what);
            ++lasting;
          }
        });
      }
    });
  });
  assert.ok(held > 5000 && moved > 500 && shots > 300 && lasting > 100, `${held} ${moved} ${shots} ${lasting}`);
});

test('a shot stays at its ends', () => {
  const flight = { pieces: [{ from: 1, to: 2, at: [0, 0, 0] as Vec, velocity: [3, 0, 0] as Vec, acceleration: [0, 0, -2] as Vec, jerk: [0, 6, 0] as Vec }], radius: 0, ended: 'life' };
  assert.deepEqual(timesOf(flight), [1, 2]);
  assert.deepEqual(shotAt(flight, 0), [0, 0, 0]);
  assert.deepEqual(shotAt(flight, 9), [3, 1, -1]);
  assert.deepEqual(placeOn(flight.pieces[0]!, 1.5), [1.5, 0.125, -0.25]);
});

test('a hop rises over its middle', () => {
  const hop = { from: [0, 0, 1] as Vec, to: [4, 0, 1] as Vec, arc: 2, number: 1, start: 0, arrives: 1 };
  assert.deepEqual(hopAt(hop, 0), [0, 0, 1]);
  assert.deepEqual(hopAt(hop, 0.5), [2, 0, 3]);
  assert.deepEqual(hopAt(hop, 1), [4, 0, 1]);
});
