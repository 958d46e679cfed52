import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
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
    ['outer-order-web', 'web/main.ts', "import '../server/index.js';"],
    ['one-maker-of-statements', 'core/runs/index.ts', "import '../load/compile/compile.js';"],
    ['one-maker-of-statements', 'engines/index.ts', "import '../core/load/compile/compile.js';"],
    ['woven-or-nothing', 'core/runs/index.ts', "import '../walls/woven.js';"],
  ])('%s catches a planted break', (rule, file, line) => {
    const folder = temporaryFolder();
    for (const path of [
      'core/notation/index.ts',
      'core/notation/lexer.ts',
      'core/model/index.ts',
      'core/walls/woven.ts',
      'core/load/compile/compile.ts',
      'core/runs/index.ts',
      'engines/index.ts',
      'server/index.ts',
      'web/main.ts',
    ]) {
      mkdirSync(join(folder.path, path, '..'), { recursive: true });
      writeFileSync(join(folder.path, path), 'export {};\n');
    }
    writeFileSync(join(folder.path, file), `${line}\n`);
    const { violations } = cruise(folder.path, 'core', 'engines', 'server', 'web');
    expect(violations.map((violation) => violation.rule.name)).toContain(rule);
    folder.remove();
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
