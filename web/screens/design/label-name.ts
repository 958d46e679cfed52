import type { Size } from './place.js';

/** Below this only names are read; above the other there is room for more fields. */
const ONLY_NAMES = 0.44;
/** Below this there is room for the names of keys, and not for what they are. */
const WITH_DETAIL = 0.94;
/** Seen from far all names of a map have this size on the screen, in pixels, as long as the lowest label holds it. */
const NAME_ON_SCREEN = 12;
const LARGEST_NAME = 40;
/** Of names that stand with lines below them, seen from a little further. */
export const NAME_SIZE = 12;
/** How high the name of a key is on the screen, below that of its entity. */
const KEY_LINE = 14.5;
/** How wide a letter of a name is to its size. */
const CHARACTER = 0.64;

/** How the name of a label is written at a size at which it is seen. */
export type WrittenName =
  /** Alone in the middle of the label, in lines; its size is that of the sheet. */
  | { readonly kind: 'alone'; readonly lines: readonly string[]; readonly size: number }
  /** Above the names of keys, in the size of the screen; one that only just fits has the room of the margins. */
  | {
      readonly kind: 'above keys';
      readonly lines: readonly string[];
      readonly isTight: boolean;
      /** For how many keys there is room. */
      readonly room: number;
    }
  /** At the head of the label, with all of its lines below. */
  | { readonly kind: 'head' };

/** How the name of a label of a size is written at a zoom. */
export function writtenName(name: string, { width, height }: Size, zoom: number): WrittenName {
  if (zoom < ONLY_NAMES) {
    const size = Math.min(NAME_ON_SCREEN / zoom, LARGEST_NAME);
    const lines = inLines(name, (width - 8) / (size * CHARACTER), Math.floor((height - 4) / (size * 1.1)));
    return { kind: 'alone', lines, size };
  }
  if (zoom >= WITH_DETAIL) return { kind: 'head' };
  const fits = (width * zoom - 14) / (name.length * CHARACTER) >= NAME_SIZE;
  const words = wordsOf(name);
  const roomBelow = (head: number) => Math.floor((height * zoom - head) / KEY_LINE);
  // A name of several words that is too long for one line goes on two, where there is a second.
  if (!fits && words.length > 1 && height * zoom >= 36)
    return { kind: 'above keys', lines: [words[0] ?? '', words.slice(1).join('')], isTight: false, room: roomBelow(36) };
  return { kind: 'above keys', lines: [name], isTight: !fits, room: roomBelow(26) };
}

/**
 * A name in lines of so many letters, parted between its words; one that needs more lines than there are is cut there.
 * All of a name that fits on one line stays on it.
 */
function inLines(name: string, letters: number, most: number): readonly string[] {
  if (name.length <= letters || most < 2) return [name];
  const lines: string[] = [];
  for (const word of wordsOf(name)) {
    const last = lines.at(-1);
    if (last !== undefined && (last.length + word.length <= letters || lines.length === most))
      lines[lines.length - 1] = last + word;
    else lines.push(word);
  }
  return lines;
}

const wordsOf = (name: string) => name.split(/(?<=[a-z0-9])(?=[A-Z])/);
