import type { ColouredToken, TokenClass } from '../notation/index.js';

/**
 * The colours of a text as they cross from the worker: a large text has tens of thousands of words, and as objects they would
 * take longer to cross than to find.
 */
export interface PackedColours {
  /** The classes that words have, each once. */
  readonly classes: readonly TokenClass[];
  /** For each word its start, its end, and its class by its place in `classes`. */
  readonly places: Uint32Array;
}

export const NO_COLOURS: PackedColours = { classes: [], places: new Uint32Array(0) };

/** Packs the colours of a text, in the order of the text. */
export function packColours(tokens: readonly ColouredToken[]): PackedColours {
  const classes = new Map<TokenClass, number>();
  const places = new Uint32Array(tokens.length * 3);
  tokens.forEach(({ span, class: name }, index) => {
    const known = classes.get(name) ?? classes.size;
    classes.set(name, known);
    places.set([span.start, span.end, known], index * 3);
  });
  return { classes: Array.from(classes.keys()), places };
}

/** The same colours, word by word. */
export function unpackColours({ classes, places }: PackedColours): ColouredToken[] {
  const tokens: ColouredToken[] = [];
  for (let at = 0; at < places.length; at += 3) {
    const name = classes[places[at + 2] ?? 0];
    if (name !== undefined) tokens.push({ span: { start: places[at] ?? 0, end: places[at + 1] ?? 0 }, class: name });
  }
  return tokens;
}
