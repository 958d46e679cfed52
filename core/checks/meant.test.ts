import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { addMeant, allTogether, applied, rename } from '../edits/index.js';
import { format } from '../notation/index.js';
import { briefGroupsOf, groupsOf, rowQuestions } from './index.js';

const LOGIN = `entity Login in logins
  id             integer key
  password       text(80)
  reset_token    text(80)
  password_hash  text(80)

entity Door in doors
  id    integer key
  code  text(20)
  pin   text(8)
`;
const read = (text: string) => readDesign(text);
const told = (text: string) => read(text).findings.map(({ weight, code, message }) => `${weight} ${code} ${message}`);

describe('a finding that is meant so', () => {
  test('is told no more where the text says so: of a line, of an entity, or everywhere', () => {
    expect(told(LOGIN)).toHaveLength(4);
    expect(told(`${LOGIN}\nmeant secret_field of Login.password: 'The gateway hashes it'\n`)).toHaveLength(3);
    expect(told(`${LOGIN}\nmeant secret_field of Login: 'Only the gateway reads it'\n`)).toHaveLength(1);
    expect(told(`${LOGIN}\nmeant secret_field: 'Nothing leaves the house'\n`)).toEqual([]);
  });

  test('keeps what is wrong in the list, since that is left out', () => {
    const text = `${LOGIN}\nrelation seat\n  Login knows one Nobody as nobody\n`;
    const [code = ''] = read(text).findings.flatMap((finding) => (finding.weight === 'error' ? [finding.code] : []));
    expect(told(`${text}\nmeant ${code.replaceAll('-', '_')}: 'so be it'\n`).some((line) => line.startsWith('error'))).toBe(true);
  });

  test('that is of nothing, or of nothing any more, is told itself, with a way out', () => {
    const gone = read(`${LOGIN}\nmeant unindexed_key of Login: 'Few rows'\n`);
    const note = gone.findings.find(({ code }) => code === 'meant-nothing');
    expect(note?.message).toContain('nothing is found there any more');
    expect(applied(gone.text, note?.fixes[0]?.edits ?? []).trimEnd()).toBe(LOGIN.trimEnd());
    expect(told(`${LOGIN}\nmeant secret_feild: 'x'\n`).join()).toContain('Did you mean secret_field?');
    expect(told(`${LOGIN}\nmeant secret_field of Logon: 'x'\n`).join()).toContain('there is no Logon in this text. Did you mean');
    expect(told(`${LOGIN}\nmeant secret_field of Login.pass: 'x'\n`).join()).toContain('there is no line for Login.pass');
    expect(told(`${LOGIN}\nmeant secret_field of Login: ''\n`).join()).toContain('say why');
  });

  test('is written for the smallest thing that has a name, and read back', () => {
    const design = read(LOGIN);
    const text = applied(LOGIN, addMeant(design, design.findings, "They are the gateway's"));
    expect(text.slice(LOGIN.length)).toBe(`
meant secret_field of Login.password: 'They are the gateway''s'
meant secret_field of Login.reset_token: 'They are the gateway''s'
meant secret_field of Login.password_hash: 'They are the gateway''s'
meant secret_field of Door.pin: 'They are the gateway''s'
`);
    expect(told(text)).toEqual([]);
    expect(format(text)).toBe(`${format(LOGIN)}${text.slice(LOGIN.length)}`);
    expect(read(text).model.meant.map(({ why }) => why)).toEqual(Array(4).fill("They are the gateway's"));
  });

  test('goes on to be meant where its entity or its field gets another name', () => {
    const text = `${LOGIN}\nmeant secret_field of Login.password: 'x'\n`;
    for (const [thing, name] of [
      [{ kind: 'entity', owner: '', name: 'Login' }, 'Entry'],
      [{ kind: 'field', owner: 'Login', name: 'password' }, 'pass_secret'],
    ] as const) {
      const renamed = rename(read(text), thing, name);
      if (!renamed.ok) throw new Error(renamed.problem);
      const after = applied(text, renamed.edits);
      expect(read(after).findings.filter(({ weight }) => weight === 'error')).toEqual([]);
      expect(told(after)).toHaveLength(3);
    }
  });

  test('is not asked of the rows either', () => {
    const text = `${LOGIN}\nmeant unfit_value of Login: 'An old program wrote them'\n`;
    const asked = (of: string) => {
      const { model, dialect } = read(of);
      return rowQuestions(model, { dialect, text: of }).filter(({ code }) => code === 'unfit-value').length;
    };
    expect(asked(LOGIN) - asked(text)).toBe(4);
    expect(told(text).join()).not.toContain('meant-nothing');
  });
});

describe('a secret', () => {
  const secrets = (names: readonly string[], type = 'text(80)') =>
    read(`entity Thing\n  id integer key\n${names.map((name) => `  ${name} ${type}\n`).join('')}`).findings.filter(
      ({ code }) => code === 'secret-field',
    ).length;

  test('is what the last word of a name says it is', () => {
    const names = ['password', 'reset_token', 'password_hash', 'api_key', 'door_pin', 'salt'];
    expect(secrets(names)).toBe(names.length);
    expect(secrets(['url_hash', 'password_state', 'change_password_url', 'token_count', 'file_hash', 'pin_board'])).toBe(0);
  });

  test('is no moment, truth or measure', () => {
    for (const type of ['boolean', 'timestamp', 'date', 'real']) expect(secrets(['password', 'token'], type)).toBe(0);
    expect(secrets(['pin'], 'integer')).toBe(1);
  });
});

describe('findings that say the same', () => {
  test('are one, with all their places; errors stand for themselves where there is little room', () => {
    const { findings } = read(LOGIN);
    expect(groupsOf(findings).map((group) => group.findings.length)).toEqual([4]);
    expect(briefGroupsOf(findings).map((group) => group.findings.length)).toEqual([4]);
    expect(briefGroupsOf(findings.slice(1)).map((group) => group.findings.length)).toEqual([1, 1, 1]);
    const wrong = findings.map((finding) => ({ ...finding, weight: 'error' as const }));
    expect(briefGroupsOf(wrong)).toHaveLength(4);
  });

  test('are fixed at once, but for what another fix changes at the same place', () => {
    const { findings, text } = read(LOGIN);
    const fixes = findings.flatMap((finding) => finding.fixes);
    const all = allTogether(fixes);
    expect(all).toMatchObject({ done: 4, left: 0 });
    expect(told(applied(text, all.edits))).toEqual([]);
    const [first] = fixes;
    if (first === undefined) throw new Error('no fix');
    const other = { title: 'Other', edits: first.edits.map((edit) => ({ ...edit, text: ' internal' })) };
    expect(allTogether([first, first, other])).toEqual({ edits: first.edits, done: 2, left: 1 });
  });
});
