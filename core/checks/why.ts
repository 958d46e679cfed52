/** Why a finding matters, by its code: what goes wrong for whom, and when. */
export const REASONS: Readonly<Record<string, string>> = {
  'abstract-alone': 'An abstract entity has no rows of its own; without kinds it is only a name.',
  'always-load-loop': 'What comes along with every row would bring itself along again, and no load would ever end.',
  'broken-check': 'A constraint that is missing, or came after the rows, lets them stand; the next to write trusts it.',
  'broken-rule': 'No constraint of the database holds a rule: whoever wrote these rows did not look.',
  'cascade-loop':
    'A person who deletes one row sees one row go. Here all that hangs on it goes, and what hangs on that, until it comes back.',
  'column-clash': 'Two things that share a column overwrite each other.',
  'compared-with-null': 'In SQL nothing equals null, so the condition would never hold.',
  doubled: 'No unique reaches over several tables: who seeks the one finds two.',
  'empty-required': 'Code that counts on a value fails on the row that has none, or reads an empty text where nothing was said.',
  'endless-text': 'An index over a text of any length is refused by one engine, cut by another, and slow on the third.',
  'far-side-one':
    'The database cannot refuse a row for a row that another table lacks, so the promise is only as good as whoever writes.',
  'first-unordered': 'Without an order the engine may give another row each time it is asked.',
  'given-unkept': 'Rows may point at what is gone, and nobody is told.',
  'half-key': 'Half a key leads nowhere, and no join says so: the row is only missing from the answer.',
  'json-kind': 'No constraint looks into a column of JSON; whoever reads a number there gets a text.',
  'key-type-mismatch': 'A key of another type is compared by a cast, past its index, or not at all.',
  'inexact-check': 'A check that is right for small values lets the large ones through, or keeps them out, and says nothing.',
  'kept-sql':
    'SQL that a text keeps is run as it stands as soon as the tables are made: it may be one thing, and do nothing besides.',
  'kind-beside-base': 'A row that could be stored as either is found by half of the questions that ask for it.',
  'kind-row':
    'The base says what a row is, the table of the kind says the rest: where they differ, a field is read as empty that is none.',
  'kinds-unsaid': 'How kinds are stored decides which rules the database can hold; the tool does not guess it.',
  'loose-key': 'A column that looks like a key, and is none, may point at rows that are gone; no join over it is offered.',
  'lost-key': 'An inner join drops these rows, an outer one shows nothing beside them; both look like an answer.',
  'lost-rules': 'What the database does not hold, every program that writes has to remember.',
  'mark-clash': 'Two kinds with one mark cannot be told apart when they are read back.',
  'name-clash': 'Two things of one name cannot both be asked for.',
  'name-on-engine':
    'A name that is cut meets another that was cut the same; one that is a word of SQL breaks each statement that forgets to quote it.',
  'no-sentence': 'A key without a role is a column that no query can follow.',
  'no-keeper':
    'The row that is pointed at may go, and later another get its key: remarks then stand on something that nobody remarked on.',
  'no-key': 'Rows without a key cannot be pointed at, loaded along, or told apart.',
  'not-built-yet': 'The rest of the text works; only this is left out.',
  'not-unique':
    'Who seeks the one finds two, and takes the first that comes; an insert that relies on the constraint never fails.',
  'not-on-dialect': 'What one engine keeps, another drops without a word: the rule is in the text and not in the database.',
  'number-code': '0412 and 412 are one number and two codes.',
  'one-of-several': 'A promise that only some tables make cannot be told to the database by one unique.',
  'optional-key': 'SQLite lets rows without a key in; nothing finds them again.',
  'pair-entity': 'The same pair stands twice as soon as two requests come at once, and each list then shows it twice.',
  'pair-order': 'A pair that stands the wrong way round is not found by who asks for it the right way, and can be put in again.',
  'path-loop': 'A path that stands on itself leads nowhere.',
  'required-loop': 'Each row needs the other first, so the tables stay empty for ever, or somebody switches the keys off.',
  'same-relation': 'Half of the program writes one, the other half reads the other.',
  'searched-text': 'It is quick on the rows of a try and reads the whole table on the day when there are many.',
  'secret-field': 'Whole rows are what lists, logs and exports hand out.',
  'self-required': 'The first row would need one before it.',
  'separate-key': 'Two rows with one key look like one row wherever they are read together.',
  'session-settings': 'A program that has not heard of it writes as ever, and what it leaves behind points at nothing.',
  'set-null-required': 'The rule would empty a column that may not be empty: every delete would fail.',
  'stated-sql': 'It is put into a statement as it stands: what is more than one expression would be run as part of another.',
  'stated-type': 'It is put into a statement as it stands: what is more than one type would be run as part of another.',
  'too-deep':
    'Each name is written out whole where it is used; what stands on too many others comes to statements that no engine takes.',
  'too-many-fields': 'A text is read while somebody types, and no engine makes a table of more columns.',
  'too-many-rows': 'Sample rows are there to be looked through; more of them take long to make and show nothing new.',
  'triggered-cascade': 'The delete fails on that engine when a person first needs it, not when the tables are made.',
  'type-mismatch': 'Engines compare unlike types each in their own way; the answers would differ.',
  'unfit-value': 'Each engine and each program reads such a value in its own way, and sorts and compares it in yet another.',
  'unindexed-key': 'It is quick on a hundred rows and takes minutes on a million, in the middle of a delete.',
  'unindexed-wall':
    'A wall is asked with every query of its entity; what no index finds is looked for in all of the rows, each time.',
  'unkept-promise': 'Code that counts on the one fails on the row that has none, on the day when somebody opens it.',
  'unlisted-value': 'Code that goes through the list has no branch for it, and falls into the last.',
  'unknown-mark': 'Another program has written a kind that this text does not know; what is its own is not read.',
};

/** Why a finding of this code matters; null where its message says all there is. */
export function whyOf(code: string): string | null {
  return REASONS[code] ?? null;
}
