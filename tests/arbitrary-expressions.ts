import fc from 'fast-check';

/** What an expression gives. */
export type Kind = 'truth' | 'whole' | 'price' | 'word' | 'day';

const comparison = fc.constantFrom('=', '<>', '<', '<=', '>', '>=');

/** Expressions in the notation, every part in brackets of its own so that the notation's precedence plays no part. */
export const { truth, whole, price, word, day } = fc.letrec<Record<Kind, string>>((tie) => {
  const two = (kind: Kind) => fc.tuple(tie(kind), tie(kind));
  const compared = (kind: Kind) => fc.tuple(two(kind), comparison).map(([[a, b], operator]) => `(${a} ${operator} ${b})`);
  const chosen = (kind: Kind) =>
    fc.tuple(tie('truth'), two(kind)).map(([when, [a, b]]) => `(case when ${when} then ${a} else ${b} end)`);
  const filled = (kind: Kind) => two(kind).map(([a, b]) => `coalesce(${a}, ${b})`);
  const not = fc.constantFrom('', 'not ');
  const depth = { maxDepth: 5, depthIdentifier: 'expression' };
  return {
    truth: fc.oneof(
      depth,
      fc.constantFrom('lit', 'dark', 'true', 'false'),
      compared('truth'),
      compared('truth'),
      compared('whole'),
      compared('price'),
      compared('word'),
      compared('day'),
      fc.tuple(two('truth'), fc.constantFrom('and', 'or')).map(([[a, b], operator]) => `(${a} ${operator} ${b})`),
      tie('truth').map((inner) => `(not ${inner})`),
      fc.tuple(fc.oneof(tie('truth'), tie('whole'), tie('word')), not).map(([inner, negated]) => `(${inner} is ${negated}null)`),
      fc
        .tuple(tie('whole'), not, tie('whole'), tie('whole'))
        .map(([a, negated, b, c]) => `(${a} ${negated}between ${b} and ${c})`),
      fc
        .tuple(fc.constantFrom<Kind>('truth', 'whole', 'word'), not)
        .chain(([kind, negated]) => fc.tuple(tie(kind), two(kind)).map(([a, [b, c]]) => `(${a} ${negated}in (${b}, ${c}))`)),
      fc.tuple(tie('word'), not, fc.constantFrom("'a%'", "'%_b'", 'name')).map(([a, negated, b]) => `(${a} ${negated}like ${b})`),
      chosen('truth'),
      filled('truth'),
    ),
    whole: fc.oneof(
      depth,
      fc.constantFrom('small', 'number', '0', '2', '-3', '7'),
      fc
        .tuple(two('whole'), fc.constantFrom('+', '-', '*', '/', '%'))
        .map(([[a, b], operator]) => `(${a} ${operator} ${b} % 11)`),
      tie('whole').map((inner) => `(- ${inner})`),
      two('day').map(([a, b]) => `(${a} - ${b})`),
      tie('word').map((inner) => `length(${inner})`),
      chosen('whole'),
      filled('whole'),
    ),
    price: fc.oneof(
      depth,
      fc.constantFrom('fee', 'fee', '0.25', '-1.50'),
      fc.tuple(tie('price'), fc.constantFrom('+', '-'), tie('price')).map(([a, operator, b]) => `(${a} ${operator} ${b})`),
      tie('price').map((inner) => `(- ${inner})`),
      chosen('price'),
      filled('price'),
    ),
    word: fc.oneof(
      depth,
      fc.constantFrom('name', 'label', "'ab'", "''", "'it''s'"),
      fc
        .oneof(two('word'), fc.tuple(tie('word'), tie('whole')), fc.tuple(tie('truth'), tie('word')))
        .map(([a, b]) => `(${a} || ${b})`),
      tie('word').map((inner) => `upper(${inner})`),
      fc.tuple(tie('word'), tie('word')).map(([a, b]) => `replace(${a}, 'a', substr(${b}, 1, 2))`),
      chosen('word'),
      filled('word'),
    ),
    day: fc.oneof(
      depth,
      fc.constantFrom('on', 'day'),
      fc.tuple(tie('day'), fc.constantFrom('+ 3 days', '- 1 month')).map(([a, moved]) => `(${a} ${moved})`),
      chosen('day'),
      filled('day'),
    ),
  };
});

/** An entity with a field of each sort, some of them empty. */
export const HEAD = `tree 'Expressions'
  clock '2031-04-12 09:00'

entity Thing
  id      integer key
  lit     boolean optional
  dark    boolean
  small   integer optional
  number  integer
  fee     decimal(8, 2) optional
  name    text(40)
  label   text(40) optional
  on      date optional
  day     date
`;

/** Its rows. */
export const ROWS = `
sample Thing
  a: lit true, dark false, small 2, number 0, fee 0.10, name 'ab', label 'b', on '2031-01-31', day '2031-03-31'
  b: dark true, number -3, name '', day '2031-03-30'
  c: lit false, dark true, small -3, number 7, fee -1.50, name 'a_b', label '', on '2031-03-31', day '2031-01-31'
  d: lit false, dark false, small 0, number 2, fee 20.25, name 'it''s', label 'AB', on '2030-02-28', day '2031-02-28'
`;
