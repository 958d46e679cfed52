import { describe, expect, test } from 'vitest';
import { preparedQuery } from '../../tests/prepared.js';
import { readDesign } from '../design/index.js';
import type { Computation, Refusal, Statement } from '../load/index.js';
import { type CheckRowsInput, computationOf, LONGEST_ANSWER, type RunInput } from './index.js';

const design = readDesign('entity Player\n  id    integer key\n  name  text(20)\n');
const players = preparedQuery(design, 'from Player');

/** What an engine gives for a statement: the cells of each column, or a refusal. */
type Given = readonly (readonly unknown[])[] | Refusal;

/** Carries out a computation; each statement is told, and answered with what comes next. */
function carriedOut<Result>(computation: Computation<Result>, given: readonly Given[]) {
  const asked: Statement[] = [];
  let step = computation.next();
  while (step.done !== true) {
    const answer = given[asked.length] ?? [];
    asked.push(step.value);
    const refused = 'code' in answer ? answer : null;
    const rows = 'code' in answer ? [] : [answer.map((cells) => JSON.stringify(cells))];
    step = computation.next({ rows, milliseconds: 0, steps: [], refused });
  }
  return { result: step.value, asked };
}

describe('looking for rows that do not hold to the design', () => {
  const question = (screen: number | null = null) => ({ screen, count: players, examples: players });
  const lookFor = (input: Partial<CheckRowsInput>, given: readonly Given[]) =>
    carriedOut(computationOf(design.dialect, 'check rows', { screens: [], questions: [], endsAt: [], ...input }), given);
  const slow: Refusal = { code: 'too-slow', message: 'It took too long.' };

  test('asks for examples only where rows were counted', () => {
    const { result, asked } = lookFor({ questions: [question(), question()] }, [
      [[0]],
      [[3]],
      [
        [1, 2, 3],
        ['a', 'b', 'c'],
      ],
    ]);
    const examples = [
      [1, 2, 3],
      ['a', 'b', 'c'],
    ];
    expect(result).toEqual([{ kind: 'none' }, { kind: 'rows', rows: 3, examples }]);
    expect(asked).toHaveLength(3);
  });

  test('asks a screen once, and none of its questions where it finds nothing', () => {
    const { result, asked } = lookFor({ screens: [players], questions: [question(0), question(0)] }, [[[0]]]);
    expect(result).toEqual([{ kind: 'none' }, { kind: 'none' }]);
    expect(asked).toHaveLength(1);
  });

  test('asks every question of a screen that finds something, or that is refused', () => {
    for (const screened of [[[7]], slow]) {
      const { result, asked } = lookFor({ screens: [players], questions: [question(0), question(0)] }, [screened, [[0]], [[0]]]);
      expect(result).toEqual([{ kind: 'none' }, { kind: 'none' }]);
      expect(asked).toHaveLength(3);
    }
  });

  test('goes on behind a question that is refused, and ends at a refusal after which nothing has an answer', () => {
    const questions = [question(), question()];
    expect(lookFor({ questions }, [slow, [[0]]]).result).toEqual([{ kind: 'refused', refused: slow }, { kind: 'none' }]);
    const ended = lookFor({ questions, endsAt: ['too-slow'] }, [slow]);
    expect(ended.result).toEqual([{ kind: 'refused', refused: slow }, { kind: 'not asked' }]);
    expect(ended.asked).toHaveLength(1);
  });

  test('says how many rows there are where their examples are refused', () => {
    expect(lookFor({ questions: [question()] }, [[[3]], slow]).result).toEqual([{ kind: 'rows', rows: 3, examples: [] }]);
  });

  test('may be refused each statement, and trusts no value to fit its type', () => {
    const { asked } = lookFor({ screens: [players], questions: [question(0)] }, [[[1]], [[1]], []]);
    expect(asked.map(({ mayFail }) => mayFail)).toEqual([true, true, true]);
    expect(asked.every(({ sent }) => sent.includes('typeof'))).toBe(true);
  });
});

describe('a page of rows', () => {
  const page = (wanted: Partial<RunInput<'page'>>, given: readonly Given[]) =>
    JSON.parse(
      carriedOut(
        computationOf(design.dialect, 'page', {
          prepared: players,
          keys: null,
          keyType: { kind: 'integer' },
          keyName: 'id',
          rowLimit: 10,
          pairs: null,
          ...wanted,
        }),
        given,
      ).result.text,
    );

  test('is in the order of its keys, whatever the order in which the rows arrive; rows that are gone are left out', () => {
    expect(
      page({ keys: [3, 9, 1] }, [
        [
          [1, 3],
          ['Ada', 'Bo'],
        ],
      ]),
    ).toEqual([
      { id: 3, name: 'Bo' },
      { id: 1, name: 'Ada' },
    ]);
  });

  test('by places is in the order of the statement', () => {
    expect(
      page({}, [
        [
          [3, 1],
          ['Bo', 'Ada'],
        ],
      ]),
    ).toEqual([
      { id: 3, name: 'Bo' },
      { id: 1, name: 'Ada' },
    ]);
  });
});

describe('an answer as one text', () => {
  test('has the rows that fit, and says where it was cut', () => {
    const long = 'x'.repeat(LONGEST_ANSWER * 0.6);
    const { result } = carriedOut(computationOf(design.dialect, 'load', { prepared: players, rowLimit: 10 }), [
      [
        [1, 2],
        [long, long],
      ],
    ]);
    expect(result.rows).toBe(1);
    expect(JSON.parse(result.text)).toHaveLength(1);
    expect(result.cuts).toEqual([{ path: '', limit: 1, size: LONGEST_ANSWER }]);
  });

  test('is cut by the number of rows first', () => {
    const { result } = carriedOut(computationOf(design.dialect, 'load', { prepared: players, rowLimit: 2 }), [
      [
        [1, 2, 3],
        ['a', 'b', 'c'],
      ],
    ]);
    expect(JSON.parse(result.text)).toEqual([
      { id: 1, name: 'a' },
      { id: 2, name: 'b' },
    ]);
    expect(result.cuts).toEqual([{ path: '', limit: 2, size: null }]);
  });
});
