import { resolve } from 'node:path';
import ts from 'typescript';
import { expect, test } from 'vitest';

const HEAD = `import type { QueryPlan } from '../plan/index.js';
import { SYSTEM, weave, type Woven } from './index.js';
declare const plan: QueryPlan;
declare const woven: Woven;
`;

const WOVEN = 'export const made: Woven = weave(plan, SYSTEM);';

const BREAKS = {
  'a spread of one': 'export const made: Woven = { ...woven };',
  'an object made by hand': 'export const made: Woven = { plan };',
  'a plan that was not woven': 'export const made: Woven = plan;',
  'a cast of a plan': 'export const made = plan as Woven;',
  'a cast of an object': 'export const made = { plan } as Woven;',
  'a plan that is woven for nobody': 'export const made: Woven = weave(plan);',
  'the plan in it, read elsewhere': 'export const read = woven.plan;',
};

/** What the compiler says against each of some texts that stand beside the walls. */
function errorsIn(texts: readonly string[]): string[][] {
  const planted = new Map(texts.map((text, index) => [resolve(`core/walls/planted-${index}.ts`), HEAD + text]));
  const { config } = ts.readConfigFile(resolve('tsconfig.json'), ts.sys.readFile) as { config: object };
  const { options } = ts.parseJsonConfigFileContent(config, ts.sys, resolve('.'));
  const host = ts.createCompilerHost(options);
  const { getSourceFile, fileExists } = host;
  host.fileExists = (name) => planted.has(name) || fileExists(name);
  host.getSourceFile = (name, languageVersion, ...rest) => {
    const text = planted.get(name);
    return text === undefined
      ? getSourceFile.call(host, name, languageVersion, ...rest)
      : ts.createSourceFile(name, text, languageVersion);
  };
  const program = ts.createProgram(Array.from(planted.keys()), { ...options, noEmit: true }, host);
  return Array.from(planted.keys(), (name) =>
    program
      .getSemanticDiagnostics(program.getSourceFile(name))
      .filter(({ code }) => code !== DECLARED_AND_UNUSED)
      .map(({ messageText }) => ts.flattenDiagnosticMessageText(messageText, '\n')),
  );
}

const DECLARED_AND_UNUSED = 6133;

test('a woven plan is made by weaving alone: whatever else is put in its place does not compile', () => {
  const [woven, ...broken] = errorsIn([WOVEN, ...Object.values(BREAKS)]);
  expect(woven).toEqual([]);
  const compiling = Object.keys(BREAKS).filter((_, index) => broken[index]?.length === 0);
  expect(compiling).toEqual([]);
});
