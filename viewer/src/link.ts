// What a link reopens, as the part of the address after "#".
export interface Place {
  launch: string;
  time: number;
  body: string | null;
  looks: string;
  camera: number[];
}

export function toLink(place: Place): string {
  const out = new URLSearchParams();
  out.set('launch', place.launch);
  out.set('t', String(Math.round(place.time * 1e6) / 1e6));
  if (place.body !== null) out.set('body', place.body);
  out.set('view', place.looks);
  out.set('camera', place.camera.join(','));
  return '#' + out.toString();
}

/** What of a link can be used: whatever it holds, nothing of it is trusted. */
export function fromLink(hash: string): Partial<Place> {
  const out: Partial<Place> = {};
  const all = new URLSearchParams(hash.replace(/^#/, ''));
  const launch = all.get('launch'), body = all.get('body'), looks = all.get('view');
  if (launch !== null) out.launch = launch;
  if (body !== null) out.body = body;
  if (looks !== null && ['orbit', 'plan', 'south', 'east'].includes(looks)) out.looks = looks;
  const time = Number(all.get('t') ?? NaN);
  if (Number.isFinite(time)) out.time = time;
  const camera = (all.get('camera') ?? '').split(',').map(Number);
  if (camera.length === 7 && camera.every((v) => Number.isFinite(v) && Math.abs(v) < 1e9) && camera[6]! > 0) out.camera = camera;
  return out;
}
