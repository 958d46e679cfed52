import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import createClient, { type Client } from 'openapi-fetch';
import openapiTS, { astToString } from 'openapi-typescript';
import ts from 'typescript';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { formats } from '../core/formats/index.js';
import { MEDIA_TYPE } from '../core/live/index.js';
import { type LiveServer, serveLive } from '../tests/live-server.js';

const TEXT = readFileSync('demo/library.kin', 'utf8');
const OPTIONS: ts.CompilerOptions = {
  strict: true,
  noEmit: true,
  exactOptionalPropertyTypes: true,
  target: ts.ScriptTarget.ES2022,
  module: ts.ModuleKind.ESNext,
  moduleResolution: ts.ModuleResolutionKind.Bundler,
  lib: ['lib.es2022.d.ts', 'lib.dom.d.ts', 'lib.dom.iterable.d.ts'],
  types: [],
};

let server: LiveServer;
let types: string;
beforeAll(async () => {
  server = await serveLive(TEXT);
  const document = formats.openapi.made(readDesign(TEXT), { server: server.address });
  types = astToString(await openapiTS(JSON.parse(document) as Parameters<typeof openapiTS>[0]));
}, 120_000);
afterAll(() => server.close());

/** A program of somebody who has nothing but the document: what it is told it knows by its types. */
const PROGRAM = `
import type { Client } from 'openapi-fetch';
import type { paths } from './endpoint';

export async function work(client: Client<paths, 'application/vnd.api+json'>) {
  const page = await client.GET('/players', { params: { query: { 'page[size]': 3, sort: '-name', filter: 'branch.id = 1' } } });
  const names: string[] = (page.data?.data ?? []).map(({ attributes }) => attributes?.name ?? '');
  const made = await client.POST('/players', {
    body: { data: { type: 'players', attributes: { name: 'Ada Typed', email: 'ada.typed@example.org' }, relationships: { branch: { data: { type: 'branches', id: '2' } } } } },
  });
  const id: string = made.data?.data.id ?? '';
  const changed = await client.PATCH('/players/{id}', {
    params: { path: { id } },
    body: { data: { type: 'players', id, attributes: { name: 'Ada Changed' } } },
  });
  const steward: boolean | null | undefined = changed.data?.data.attributes?.steward;
  const loans = await client.GET('/players/{id}/loans', { params: { path: { id } } });
  const removed = await client.DELETE('/players/{id}', { params: { path: { id } } });
  const gone = await client.GET('/players/{id}', { params: { path: { id } } });
  const detail: string | undefined = gone.error?.errors[0]?.detail;
  return {
    names,
    steward,
    name: changed.data?.data.attributes?.name,
    loans: loans.data?.data.length,
    statuses: [made, changed, removed, gone].map(({ response }) => response.status),
    detail,
  };
}
`;

test('a client that knows nothing but the document compiles under strict, and does what its types say', async () => {
  const { outputText } = ts.transpileModule(PROGRAM, { compilerOptions: OPTIONS });
  const program = (await import(`data:text/javascript,${encodeURIComponent(outputText)}`)) as {
    work(client: Client<never, typeof MEDIA_TYPE>): Promise<object>;
  };
  const headers = { Actor: 'system', Authorization: `Bearer ${server.token}`, 'Content-Type': MEDIA_TYPE };
  const told = await program.work(createClient<never, typeof MEDIA_TYPE>({ baseUrl: server.address, headers }));
  expect(told).toEqual({
    names: [expect.any(String), expect.any(String), expect.any(String)],
    steward: false,
    name: 'Ada Changed',
    loans: 0,
    statuses: [201, 200, 204, 404],
    detail: 'There is no resource of players with this id.',
  });
  // The compiler holds the thread up for longer than a connection is kept.
  expect(errorsIn(PROGRAM)).toEqual([]);
});

test.each([
  ['a collection that is not there', "client.GET('/player', {})", /'"\/player"' is not assignable/],
  ['a resource without its id', "client.GET('/players/{id}')", /Expected 2 arguments/],
  [
    'a value of another type',
    "client.POST('/players', { body: { data: { type: 'players', attributes: { name: 7 } } } })",
    /is not assignable to type 'string'/,
  ],
  [
    'a field that no caller sets',
    "client.POST('/players', { body: { data: { type: 'players', attributes: { name: 'x', steward: true } } } })",
    /'steward' does not exist/,
  ],
])('%s is no program', (_, call, told) => {
  const program = `import type { Client } from 'openapi-fetch';
import type { paths } from './endpoint';
export const wrong = (client: Client<paths, 'application/vnd.api+json'>) => ${call};`;
  expect(errorsIn(program).join('\n')).toMatch(told);
});

/** What the compiler has against a program that knows the endpoint by its document. */
function errorsIn(program: string): readonly string[] {
  const files = new Map([
    [resolve('program.ts'), program],
    [resolve('endpoint.ts'), types],
  ]);
  const host = ts.createCompilerHost(OPTIONS);
  const { getSourceFile, fileExists, readFile } = host;
  host.fileExists = (file) => files.has(resolve(file)) || fileExists.call(host, file);
  host.readFile = (file) => files.get(resolve(file)) ?? readFile.call(host, file);
  host.getSourceFile = (file, ...rest) => {
    const own = files.get(resolve(file));
    return own === undefined ? getSourceFile.call(host, file, ...rest) : ts.createSourceFile(file, own, ts.ScriptTarget.ES2022);
  };
  return ts
    .getPreEmitDiagnostics(ts.createProgram([resolve('program.ts')], OPTIONS, host))
    .map(({ messageText }) => ts.flattenDiagnosticMessageText(messageText, '\n'));
}
