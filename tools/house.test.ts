import { spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { describe, expect, test } from 'vitest';
import { temporaryFolder } from '../tests/database.js';

const CONFIG = resolve('.dependency-cruiser.cjs');

interface Cruise {
  readonly summary: {
    readonly totalCruised: number;
    readonly totalDependenciesCruised: number;
    readonly violations: readonly { readonly rule: { readonly name: string } }[];
  };
}

function cruise(folder: string, ...paths: string[]): Cruise['summary'] {
  const { stdout } = spawnSync(resolve('node_modules/.bin/depcruise'), ['--config', CONFIG, '--output-type', 'json', ...paths], {
    cwd: folder,
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  return (JSON.parse(stdout) as Cruise).summary;
}

describe('the order of the folders', () => {
  test('is read from every module, and holds', () => {
    const { totalCruised, totalDependenciesCruised, violations } = cruise(
      '.',
      'core',
      'contract',
      'engines',
      'services',
      'server',
      'web',
      'cli',
    );
    expect(totalCruised).toBeGreaterThan(100);
    expect(totalDependenciesCruised).toBeGreaterThan(300);
    expect(violations.map((violation) => violation.rule.name)).toEqual([]);
  });

  test.each([
    ['core-order-notation', 'core/notation/index.ts', "import '../model/index.js';"],
    ['doors', 'core/model/index.ts', "import '../notation/lexer.js';"],
    ['core-is-pure', 'core/model/index.ts', "import 'node:fs';"],
    ['core-is-pure', 'core/model/index.ts', "import '../../server/index.js';"],
    ['no-circles', 'core/model/index.ts', "import './other.js';"],
    ['outer-order-web', 'web/main.ts', "import '../server/index.js';"],
    ['one-maker-of-statements', 'core/runs/index.ts', "import '../load/compile/compile.js';"],
    ['one-maker-of-statements', 'engines/index.ts', "import '../core/load/compile/compile.js';"],
    ['woven-or-nothing', 'core/runs/index.ts', "import '../walls/woven.js';"],
    ['oracle-on-its-own', 'core/oracle/index.ts', "import '../runs/index.js';"],
  ])('%s catches a planted break', (rule, file, line) => {
    const folder = temporaryFolder();
    for (const path of [
      'core/notation/index.ts',
      'core/notation/lexer.ts',
      'core/model/index.ts',
      'core/walls/woven.ts',
      'core/load/compile/compile.ts',
      'core/runs/index.ts',
      'core/oracle/index.ts',
      'engines/index.ts',
      'server/index.ts',
      'web/main.ts',
    ]) {
      mkdirSync(join(folder.path, path, '..'), { recursive: true });
      writeFileSync(join(folder.path, path), 'export {};\n');
    }
    writeFileSync(join(folder.path, file), `${line}\n`);
    // A module that uses itself by way of another.
    if (rule === 'no-circles') writeFileSync(join(folder.path, 'core/model/other.ts'), "import './index.js';\n");
    const { violations } = cruise(folder.path, 'core', 'engines', 'server', 'web');
    expect(violations.map((violation) => violation.rule.name)).toContain(rule);
    folder.remove();
  });
});

/** The texts of a folder's modules without their comments; tests are left out. */
function codeIn(...folders: readonly string[]): { readonly file: string; readonly code: string }[] {
  return folders.flatMap((folder) =>
    readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((name) => /\.tsx?$/.test(name) && !/\.test\.tsx?$/.test(name))
      .map((name) => {
        const file = join(folder, name);
        const code = readFileSync(file, 'utf8').replace(/\/\*[\s\S]*?\*\/|(?<=^|\s)\/\/.*$/gm, '');
        return { file, code };
      }),
  );
}

/** The files in which something stands that may not. */
function standingIn(files: ReturnType<typeof codeIn>, what: RegExp): string[] {
  return files.flatMap(({ file, code }) => (what.test(code) ? [`${file}: ${what.exec(code)?.[0]}`] : []));
}

describe('engines and dialects', () => {
  const OWN_FOLDERS = /^core\/(dialects|values|sql|import)\//;
  /** Where a person, or a text, chooses among them. */
  const CHOICES = ['core/notation/entity-lines.ts', 'core/notation/syntax.ts'];
  const NAME = /['"`](sqlite|postgres|mariadb)['"`]/;
  const ANY_NAME = /sqlite|postgres|mariadb|mysql|pglite/i;

  test('are named in core by their own folders alone', () => {
    const core = codeIn('core');
    expect(core.length).toBeGreaterThan(200);
    const others = core.filter(({ file }) => !OWN_FOLDERS.test(file) && !CHOICES.includes(file));
    expect(standingIn(others, NAME)).toEqual([]);
    expect(standingIn(core, NAME).length).toBeGreaterThan(5);
  });

  test('are named by no service, and by nothing of the server but its own store', () => {
    const outer = codeIn('services', 'server/routes', 'server/workers', 'server/jobs', 'server/guard', 'server/page');
    expect(outer.length).toBeGreaterThan(30);
    expect(standingIn(outer, ANY_NAME)).toEqual([]);
    expect(standingIn(codeIn('engines'), ANY_NAME).length).toBeGreaterThan(10);
  });

  test('are spoken to in SQL by no service and no route', () => {
    const outer = codeIn('services', 'server/routes', 'server/workers', 'server/jobs', 'cli');
    const SQL =
      /['"`]\s*(select\s|insert into\s|delete from\s|update \S+ set\s|create (table|database|schema)\s|drop (table|database|schema)\s|pragma\s)/i;
    expect(standingIn(outer, SQL)).toEqual([]);
    expect(standingIn(codeIn('engines'), SQL).length).toBeGreaterThan(5);
  });
});

test('the lock file installs here and on other systems', () => {
  const { status, stderr } = spawnSync('npm', ['ci', '--dry-run', '--no-audit', '--no-fund'], { encoding: 'utf8' });
  expect(stderr).not.toMatch(/Missing: /);
  expect(status).toBe(0);
  const lock = JSON.parse(readFileSync('package-lock.json', 'utf8')) as {
    packages: Record<string, { resolved?: string; optionalDependencies?: Record<string, string> }>;
  };
  const addresses = Object.values(lock.packages).flatMap((entry) => entry.resolved ?? []);
  // Each machine asks the registry that it is set up for.
  expect(addresses).toEqual([]);
  for (const entry of Object.values(lock.packages)) {
    for (const name of Object.keys(entry.optionalDependencies ?? {})) {
      expect(
        Object.keys(lock.packages).some((path) => path.endsWith(`node_modules/${name}`)),
        name,
      ).toBe(true);
    }
  }
});
