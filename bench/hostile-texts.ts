/** Texts that were written to be slow, or that somebody's program wrote: each is read, or said what is wrong with it, in little time. */

/** A base with one entity of its own, so that what is tried stands in a tree that is otherwise sound. */
const BRANCH = "tree 'Hostile'\n\nentity Branch\n  id     integer key\n  cents  integer\n  w      text\n";

const repeat = (count: number, line: (index: number) => string) =>
  Array.from({ length: count }, (_, index) => line(index)).join('');

/** By what is hostile about it. */
export const HOSTILE_TEXTS: Readonly<Record<string, string>> = {
  'a range beyond whole numbers': `${BRANCH}  big    bigint\n  check c: big between 1 and 9223372036854775807\n\nsample Branch 50\n`,
  'a decimal of 65 digits': `${BRANCH}  d      decimal(65, 60)\n  check c: d > 0\n\nsample Branch 50\n`,
  'a decimal with more places than digits': `${BRANCH}  d      decimal(5, 101)\n\nsample Branch 5\n`,
  'a text of 400 million letters': `${BRANCH}  check c: length(w) > 400000000\n\nsample Branch 5\n`,
  'a billion rows': `${BRANCH}\nsample Branch 1000000000\n`,
  'two million rows': `${BRANCH}\nsample Branch 2000000\n`,
  'years that no calendar has': `${BRANCH}  day    date\n\nsample Branch 5\n  day between today and today + 99999999 years\n`,
  'a name of 20,000 letters': `${BRANCH.replace('cents', 'c'.repeat(20_000))}`,
  'an entity of 20,000 letters': `entity ${'A'.repeat(20_000)}\n  id integer key\n`,
  'a text of 2,000,000 quotes': `tree '${"''".repeat(400_000)}'\n`,
  'open brackets': `${BRANCH}  check c: ${'('.repeat(50_000)}1 = 1\n`,
  'closed brackets': `${BRANCH}  check c: ${'('.repeat(5_000)}cents > 1${')'.repeat(5_000)}\n`,
  'a condition of 20,000 parts': `${BRANCH}  check c: ${Array.from({ length: 20_000 }, (_, i) => `cents <> ${i}`).join(' and ')}\n`,
  '2,000 chained relations': `${repeat(2001, (i) => `entity E${i}\n  id integer key\n\n`)}${repeat(2000, (i) => `relation r${i}\n  E${i} knows one E${i + 1} as next\n  E${i + 1} knows many E${i} as back\n\n`)}`,
  '1,000 chained kinds': `${repeat(1000, (i) => (i === 0 ? 'entity K0\n  id integer key\n  kinds in single table by kind\n\n' : `entity K${i} is K${i - 1}\n  f${i} integer optional\n\n`))}`,
  '8,000 chained scopes': `${BRANCH}\n${repeat(8000, (i) => `scope s${i}\n  Branch where ${i === 0 ? 'cents > 1' : `s${i - 1}`}\n\n`)}`,
  '3,000 chained derived fields': `${BRANCH}${repeat(3000, (i) => `  d${i} = ${i === 0 ? 'cents' : `d${i - 1}`} + 1\n`)}`,
  '3,000 derived fields, the last first': `${BRANCH}${repeat(3000, (i) => `  d${i} = ${i === 2999 ? 'cents' : `d${i + 1}`} + 1\n`)}`,
  '8,000 scopes, the last first': `${BRANCH}\n${repeat(8000, (i) => `scope s${i}\n  Branch where ${i === 7999 ? 'cents > 1' : `s${i + 1}`}\n\n`)}`,
  '5,000 kinds in a ring': repeat(5000, (i) => `entity R${i} is R${(i + 1) % 5000}\n\n`),
  '3,000 keys of keys': repeat(
    3000,
    (i) =>
      `entity Q${i}\n  ${i === 2999 ? 'id integer key' : 'key (next)'}\n\n${i === 2999 ? '' : `relation q${i}\n  Q${i} knows one Q${i + 1} as next\n  Q${i + 1} knows at most one Q${i} as back\n\n`}`,
  ),
  '20,000 names that mean nothing': `${repeat(2000, (i) => `entity Known${i}\n  id integer key\n\n`)}${repeat(20_000, (i) => `relation x${i}\n  Knwon${i} knows one Knonw${i} as a\n\n`)}`,
  'paths of paths, the last first': `entity P\n  id integer key\n\nrelation self\n  P knows at most one P as up\n  P knows many P as down\n\n${repeat(2000, (i) => `path P.p${i} = ${i === 1999 ? 'up' : `p${i + 1}`}\n`)}`,
  'derived fields that double': `${BRANCH}${repeat(55, (i) => `  d${i} = ${i === 0 ? 'cents + 1' : `d${i - 1} + d${i - 1}`}\n`)}\nquery q\n  from Branch\n  where d54 > 1\n`,
  'scopes that double': `${BRANCH}\n${repeat(55, (i) => `scope s${i}\n  Branch where ${i === 0 ? 'cents > 1' : `s${i - 1} and s${i - 1}`}\n\n`)}query q\n  from Branch\n  where s54\n`,
  'paths that double': `entity P\n  id integer key\n\nrelation self\n  P knows at most one P as up\n  P knows many P as down\n\n${repeat(55, (i) => `path P.p${i} = ${i === 0 ? 'down' : `p${i - 1}.p${i - 1}`}\n`)}query q\n  from P\n  where any(p54)\n`,
  '2,000 chained paths': `entity P\n  id integer key\n\nrelation self\n  P knows at most one P as up\n  P knows many P as down\n\n${repeat(2000, (i) => `path P.p${i} = ${i === 0 ? 'up' : `p${i - 1}`}\n`)}`,
  '10,000 entities of one name': repeat(10_000, () => 'entity A\n  id integer key\n'),
  '20,000 fields of one entity': `entity A\n  id integer key\n${repeat(20_000, (i) => `  f${i} integer\n`)}`,
  '5,000 roles in an order of their own': `${repeat(500, (i) => `entity O${i}\n  id integer key\n\n`)}${repeat(5000, (i) => `relation o${i}\n  O${i % 500} knows one O${(i + 1) % 500} as a${i}\n  O${(i + 1) % 500} knows many O${i % 500} as b${i} order by id desc\n\n`)}`,
  'a mixin used 2,000 times': `mixin M\n${repeat(200, (i) => `  m${i} integer\n`)}\n${repeat(2000, (i) => `entity U${i}\n  id integer key\n  uses M\n\n`)}`,
  'one entity that 3,000 point at': `${BRANCH}\n${repeat(3000, (i) => `entity C${i}\n  id integer key\n\nrelation c${i}\n  C${i} knows one Branch as b\n  Branch knows many C${i} as c${i}s\n\n`)}`,
  '30,000 stray lines below an entity of 30,000': `${BRANCH}${repeat(30_000, (i) => `  note 'n${i}'\n`)}${repeat(30_000, (i) => `what is ${i}\n  note 'n'\n`)}`,
  'names that every object has': `constructor x\n__proto__ y\n  toString z\n\nentity constructor\n  constructor text\n  __proto__ integer key\n\nentity Constructor in constructor\n  id integer key\n  constructor text\n  toString text optional\n  hasOwnProperty text\n\nsample Constructor 3\n  valueOf 'x'\n  constructor 'a', 'b'\n`,
  '100,000 lines that mean nothing': repeat(100_000, (i) => `what is ${i}\n`),
  '400,000 blank lines': '\n'.repeat(400_000),
  'a line of 1,000,000 spaces': `${BRANCH}${' '.repeat(1_000_000)}x\n`,
  '100,000 notes': `${BRANCH}${repeat(100_000, () => "  note 'n'\n")}`,
};
