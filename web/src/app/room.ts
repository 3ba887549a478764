/** How much larger than usual everything is drawn: letters grow with the room that there is, not only the space between them. */

/** What the screens are made for, in pixels. */
const [WIDTH, HEIGHT] = [1280, 800];
const MOST = 2.5;
/** Less than this is left alone. */
const LEAST = 1.1;

/** In steps of a twentieth, for a window of so many pixels. */
export function scaleFor(width: number, height: number): number {
  const scale = Math.floor(Math.min(width / WIDTH, height / HEIGHT) * 20) / 20;
  return scale < LEAST ? 1 : Math.min(MOST, scale);
}

/** Follows the window from now on. */
export function followRoom(): void {
  const put = (): void => document.documentElement.style.setProperty('--room', String(scaleFor(window.innerWidth, window.innerHeight)));
  window.addEventListener('resize', put);
  put();
}
