import { createRequire } from 'node:module';
import { Resvg, type ResvgRenderOptions } from '@resvg/resvg-js';
import { dotsPerUnit, type Letters } from '../core/formats/index.js';

const FONTS = ['DejaVuSans.ttf', 'DejaVuSansMono.ttf', 'DejaVuSerifCondensed-Bold.ttf'];

/** Letters that the fonts of this package have not: those of Asia, and signs that are pictures. */
const OTHER_LETTERS = /[\u0900-\u10ff\u1100-\u1cff\u2e80-\ud7ff\uf900-\ufaff\u{1f000}-\u{3ffff}]/u;

/** The families of a drawing that becomes a picture of dots. */
export const LETTERS: Letters = { mono: 'DejaVu Sans Mono', serif: 'DejaVu Serif' };

/**
 * A drawing as a picture of dots. It is drawn with fonts of this package, so that it is the same wherever it is made; those of the
 * machine are asked only where a text has letters that these have not.
 *
 * @param svg a drawing with `LETTERS`, as the format `svg` gives it
 * @returns the bytes of a PNG
 */
export function pngOf(svg: string): Buffer {
  const find = createRequire(import.meta.url);
  const options: ResvgRenderOptions = {
    font: {
      fontFiles: FONTS.map((file) => find.resolve(`dejavu-fonts-ttf/ttf/${file}`)),
      loadSystemFonts: OTHER_LETTERS.test(svg),
    },
  };
  const { width, height } = new Resvg(svg, options);
  const drawing = new Resvg(svg, { ...options, fitTo: { mode: 'zoom', value: dotsPerUnit({ width, height }) } });
  return drawing.render().asPng();
}
