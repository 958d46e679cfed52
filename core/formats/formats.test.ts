import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { Validator } from '@seriousme/openapi-schema-validator';
import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import markdownIt from 'markdown-it';
import ts from 'typescript';
import { describe, expect, test } from 'vitest';
import { AUDITED_LIBRARY } from '../../tests/audited-library.js';
import { SEASON } from '../../tests/season-tree.js';
import { readDesign } from '../design/index.js';
import { FORMAT_NAMES, formats, leavingFields, modelSchema, picturedDocument, textOfModel } from './index.js';

const TREES = [
  ['the demo', readFileSync('demo/library.kin', 'utf8')],
  ['every form of relation', readFileSync('tests/forms/forms.kin', 'utf8')],
  ['roles to several', readFileSync('tests/forms/several.kin', 'utf8')],
  ['a library with secrets', AUDITED_LIBRARY],
  ['keys of texts and of two parts', SEASON],
] as const;

const HOSTILE = `tree 'A <b>"tree"</b> & \\\\ | * _ \`x\` ]]> --'
  note 'ends a comment */ and a fence \`\`\`'

entity Bow in bows
  id    integer key
  "a|b<c>{d}"  text(40) optional, note 'x | y <script>alert(1)</script>'
  note '[link](javascript:alert(1)) # not a head'
`;

const made = (text: string, name: (typeof FORMAT_NAMES)[number]) => formats[name].made(readDesign(text), {});

describe.each(TREES)('of %s', (_, text) => {
  test('the same text gives the same bytes in each format', () => {
    for (const name of FORMAT_NAMES) {
      const first = made(text, name);
      expect({ name, same: first === made(text, name) }).toEqual({ name, same: true });
    }
  });

  test('OpenAPI is let through by a validator of the standard', async () => {
    const told = await new Validator().validate(JSON.parse(made(text, 'openapi')) as Record<string, unknown>);
    expect(told).toMatchObject({ valid: true });
  });

  test('the schemas compile in strict mode', () => {
    const schema = JSON.parse(made(text, 'json-schema')) as { $defs: Record<string, object> };
    const ajv = addFormats.default(new Ajv2020({ strict: true, allowUnionTypes: true }));
    ajv.addSchema(schema, 'tree');
    for (const name of Object.keys(schema.$defs)) expect(typeof ajv.getSchema(`tree#/$defs/${name}`)).toBe('function');
  });

  test('the model is what its published schema says, and comes in again as its text', () => {
    const json = made(text, 'model');
    const validate = new Ajv2020({ strict: true, allowUnionTypes: true }).compile(modelSchema());
    expect([validate(JSON.parse(json)), validate.errors]).toEqual([true, null]);
    expect(textOfModel(json)).toEqual({ text });
    expect(textOfModel(`\uFEFF${json}`)).toEqual({ text });
  });

  test('of close kin no line stands outside its label, and the same as whole XML', () => {
    const design = readDesign(text);
    for (const kin of design.model.entities.keys()) {
      const svg = formats.svg.made(design, { kin, dark: true });
      expect(XMLValidator.validate(svg)).toBe(true);
      const labels = Array.from(svg.matchAll(/<g><rect [^>]*y="([\d.]+)"[^>]*height="([\d.]+)"[\s\S]*?<\/g>/g));
      expect(labels.length).toBeGreaterThan(0);
      for (const [label, y, height] of labels)
        for (const [, at] of label.matchAll(/<text [^>]*y="([\d.]+)"/g)) {
          expect(Number(at)).toBeGreaterThan(Number(y));
          expect(Number(at)).toBeLessThan(Number(y) + Number(height));
        }
    }
  });

  test('each picture of a document is there once, and each that is there is shown', () => {
    const { text: document, pictures } = picturedDocument(readDesign(text), 'a folder');
    const shown = markdownIt()
      .parse(document, {})
      .flatMap(({ children }) => children ?? [])
      .filter(({ type }) => type === 'image')
      .map((image) => decodeURIComponent(String(image.attrGet('src'))));
    expect(shown).toEqual(pictures.map(({ file }) => `a folder/${file}`));
    expect(new Set(shown.map((one) => one.toLowerCase())).size).toBe(readDesign(text).model.entities.size + 1);
  });

  test('the types compile under strict, with every saved query’s answer', () => {
    expect(typeErrors(made(text, 'typescript'), '')).toEqual([]);
  });

  test('the graph is drawn by graphviz, and the picture is whole XML', () => {
    const drawn = execFileSync('dot', ['-Tsvg'], { input: made(text, 'dot'), encoding: 'utf8' });
    expect(drawn.match(/class="node"/g)?.length ?? 0).toBeGreaterThanOrEqual(readDesign(text).model.entities.size);
    const svg = made(text, 'svg');
    expect(XMLValidator.validate(svg)).toBe(true);
  });

  test('every entity and relation has its part in the document', () => {
    const { model } = readDesign(text);
    const heads = markdownIt()
      .parse(made(text, 'markdown'), {})
      .flatMap((token, at, all) => (token.type === 'heading_open' ? [all[at + 1]?.content.replaceAll('\\', '') ?? ''] : []));
    for (const name of [...model.entities.keys(), ...model.relations.keys()]) expect(heads).toContain(name);
  });
});

test('a model in which somebody changed something comes in no more: its place is told', () => {
  const model = JSON.parse(made(SEASON, 'model')) as { entities: { fields: { type: string }[] }[]; walls?: unknown };
  const told = (changed: unknown) => textOfModel(JSON.stringify(changed));
  const [first, ...others] = model.entities;
  const fields = first?.fields.map((field, at) => (at === 0 ? { ...field, type: 'a/b~c' } : field));
  expect(told({ ...model, entities: [{ ...first, fields }, ...others] })).toEqual({
    problem: expect.stringContaining('/entities/0/fields/0/type') as string,
  });
  expect(told({ ...model, 'a~/b': 1 })).toEqual({ problem: expect.stringContaining('/a~0~1b') as string });
  expect(told({ ...model, walls: undefined })).toEqual({ problem: expect.stringContaining('/walls') as string });
  expect(told({ ...model, version: 2 })).toEqual({ problem: expect.stringContaining('another version') as string });
  expect(told([])).toEqual({ problem: expect.stringContaining('no model') as string });
});

test('the schema of the model is published as it is', () => {
  expect(JSON.parse(readFileSync('docs/model.schema.json', 'utf8'))).toEqual(modelSchema());
});

test('types of a query’s answer are those of the rows that it loads, and refuse what is none of them', () => {
  const types = made(TREES[0][1], 'typescript');
  const use = (line: string) =>
    `function use(rows: OverdueByBranch) { const [first] = rows; if (first === undefined || first.borrower === null || 'hidden' in first.borrower) return; ${line} }`;
  expect(typeErrors(types, use('const name: string = first.borrower.name; void name;'))).toEqual([]);
  expect(typeErrors(types, use('first.borrower.nothing;'))).toHaveLength(1);
  expect(typeErrors(types, use('const due: number = first.due_on; void due;'))).toHaveLength(1);
});

/** What the compiler has against types with a program behind them, in its words. */
function typeErrors(types: string, program: string): readonly string[] {
  const name = 'types.ts';
  const options: ts.CompilerOptions = { strict: true, noEmit: true, target: ts.ScriptTarget.ES2022, types: [] };
  const host = ts.createCompilerHost(options);
  const { getSourceFile } = host;
  host.getSourceFile = (file, ...rest) =>
    file === name
      ? ts.createSourceFile(file, `${types}\n${program}`, ts.ScriptTarget.ES2022)
      : getSourceFile.call(host, file, ...rest);
  return ts
    .getPreEmitDiagnostics(ts.createProgram([name], options, host))
    .map(({ messageText }) => ts.flattenDiagnosticMessageText(messageText, '\n'));
}

test('fields that are hidden leave in nothing but SQL, the text and the model', () => {
  const text = AUDITED_LIBRARY.replace(/\bpin( +text\(8\) optional hidden)/, 'secret_pin$1').replaceAll("pin '", "secret_pin '");
  expect(readDesign(text).findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  const telling = FORMAT_NAMES.filter((name) => made(text, name).includes('secret_pin'));
  expect(telling).toEqual(FORMAT_NAMES.filter((name) => formats[name].tellsHidden));
  expect(leavingFields(readDesign(text).model).find(({ field }) => field === 'secret_pin')).toMatchObject({
    told: false,
    mark: 'hidden',
  });
});

test('what a stranger writes into names and notes is text in every format', async () => {
  const svg = made(HOSTILE, 'svg');
  expect(XMLValidator.validate(svg)).toBe(true);
  const parsed = new XMLParser({ ignoreAttributes: false }).parse(svg) as { svg: { title: string } };
  expect(parsed.svg.title).toContain('<b>');
  expect(execFileSync('dot', ['-Tplain'], { input: made(HOSTILE, 'dot'), encoding: 'utf8' })).toContain('Bow');
  const html = markdownIt({ html: true }).render(made(HOSTILE, 'markdown'));
  expect(html).not.toMatch(/<script|href="javascript|<b>/);
  expect(typeErrors(made(HOSTILE, 'typescript'), '')).toEqual([]);
  expect(await new Validator().validate(JSON.parse(made(HOSTILE, 'openapi')) as Record<string, unknown>)).toMatchObject({
    valid: true,
  });
});
