import { expect, test } from 'vitest';
import { format, parse, parseCommands, parseQuery } from '../../core/notation/index.js';
import { PARTS } from './reference-parts.js';

test.each(PARTS.map((part): [string, (typeof PARTS)[number]] => [part.title, part]))(
  'the example of “%s” is read, and stands in its form',
  (_, { text, query, commands }) => {
    const { findings } = commands === true ? parseCommands(text) : query === true ? parseQuery(text) : parse(text);
    expect(findings).toEqual([]);
    if (query !== true && commands !== true) expect(format(text).trimEnd()).toBe(text);
  },
);

test('the examples show every form of relation and every way to store kinds that the notation has', () => {
  const all = PARTS.map(({ text }) => text).join('\n');
  for (const word of [
    'knows one',
    'knows at most one',
    'knows many',
    'both ways',
    'each knows',
    'stored in table',
    'stored in one of',
    ' with ',
    'marked',
    'kinds in single table',
    'path ',
    'first',
    'given',
    'rule ',
    'always load',
    'is a ',
    'group by',
    'having',
    'by join',
    'reads ',
    'lines(',
    'every row',
  ])
    expect(all, word).toContain(word);
});
