/** As wide or high as a picture of dots is at most, so that whatever opens it can hold it. */
const WIDEST = 8000;
/** Dots for each unit of the drawing, as long as the whole fits. */
const FINE = 2;

/** How many dots a drawing has for each of its units as a picture of dots (PNG). */
export function dotsPerUnit({ width, height }: { readonly width: number; readonly height: number }): number {
  return Math.min(FINE, WIDEST / Math.max(width, height, 1));
}
