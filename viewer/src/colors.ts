// Colours as the page's style has them.
import { Color } from 'three';

/** Until they are asked for anew. */
const colors = new Map<string, Color>();
export function color(name: string): Color {
  let out = colors.get(name);
  if (!out) {
    out = new Color(getComputedStyle(document.documentElement).getPropertyValue(name).trim() || '#888');
    colors.set(name, out);
  }
  return out;
}
export const factionColor = (number: number) => `--faction-${number % 6}`;
/** As when the system turns dark. */
export function askAnew() {
  colors.clear();
}
