import * as v from 'valibot';

/** The longest text of a tree, in characters. */
export const LONGEST_TEXT = 2_000_000;

/** One of the two halves of a character beyond U+FFFF, without the other. */
const HALF_CHARACTER = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;

/** A path of a file: no system has one with U+0000. */
export const FilePath = v.pipe(
  v.string(),
  v.maxLength(4096),
  v.check((written) => !written.includes('\0'), 'A path cannot hold the character U+0000.'),
);

/** Whoever is at work, as a text names them: `Player(2)`, `nobody`, `system`. */
export const ActorText = v.pipe(v.string(), v.maxLength(10_000));

const MOST_NAMES = 100_000;

/** Values by any names: also by such as `constructor`, which an object has of its own. */
export function recordOf<const Value extends v.GenericSchema>(value: Value) {
  return v.pipe(
    v.custom<Readonly<Record<string, v.InferInput<Value>>>>(
      (given) => typeof given === 'object' && given !== null && !Array.isArray(given) && Object.keys(given).length <= MOST_NAMES,
    ),
    v.transform((given) => Object.entries(given)),
    v.array(v.tuple([v.string(), value])),
    v.transform((entries): Record<string, v.InferOutput<Value>> => Object.fromEntries(entries)),
  );
}

/** A name that somebody gave: of an entity, a role, a query. */
export const Name = v.pipe(v.string(), v.maxLength(20_000, 'A name has 20,000 letters at most here.'));

/** A text that is held already. A line ends in a line feed within the program; a file's own line ends are its file's business. */
export const HeldText = v.pipe(
  v.string(),
  v.transform((written) => written.replace(/\r\n?/g, '\n')),
);

/** A text that a person hands in. */
export const TreeText = v.pipe(
  HeldText,
  v.check(
    (written) => !written.includes('\0') && !HALF_CHARACTER.test(written),
    'A text cannot hold the character U+0000, nor half of a character. Remove it.',
  ),
  v.maxLength(LONGEST_TEXT, 'A text may hold 2,000,000 characters at most. Split the tree, or remove what it no longer needs.'),
);

/** Of a database; no password stands in it. */
export const Address = v.pipe(v.string(), v.trim(), v.maxLength(2000));
/** Null where none is given, and a kept one is taken. */
export const Password = v.nullable(v.pipe(v.string(), v.maxLength(1000)));

/** A part of a text, from its first letter to behind its last. */
export const Span = v.object({ start: v.number(), end: v.number() });
