/** `npm test`: installs what is missing, then lint, types, unit and engine tests, build, browser tests. */
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { relative } from 'node:path';
import { stripVTControlCharacters } from 'node:util';
import { buildIfStale } from './build.mjs';
import { installPackages } from './install.mjs';

const BROWSERS = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];
let passed = 0;
let failed = 0;
/** What failed, to be told at the end, where a long log is read first: steps by their names, tests with the first lines of why. */
const failures = [];

/** A step that is one test: it passes where the program ends well. */
function step(name, program, args) {
  process.stdout.write(`\n── ${name}\n`);
  const { status } = spawnSync(program, args, { stdio: 'inherit' });
  if (status === 0) passed += 1;
  else {
    failed += 1;
    failures.push(name);
  }
}

/** The first lines of what a test said, indented, without the colours of a terminal. */
const firstLines = (text) =>
  stripVTControlCharacters(text)
    .split('\n')
    .slice(0, 12)
    .map((line) => `    ${line.slice(0, 300)}`)
    .join('\n');

const there = (paths) => paths.some((path) => existsSync(path));

/** What the tests run on that npm has not: by Debian's package, and where its program would be. */
const PROGRAMS = [
  { packages: ['chromium'], there: () => there(BROWSERS) || process.env.CHROMIUM !== undefined },
  { packages: ['sqlite3'], there: () => there(['/usr/bin/sqlite3', '/usr/local/bin/sqlite3', '/opt/homebrew/bin/sqlite3']) },
  { packages: ['postgresql'], there: () => there(['/usr/lib/postgresql']) },
  { packages: ['graphviz'], there: () => there(['/usr/bin/dot']) },
  { packages: ['mariadb-server'], there: () => there(['/usr/sbin/mariadbd', '/usr/libexec/mariadbd', '/usr/bin/mariadbd']) },
  { packages: ['openssl'], there: () => there(['/usr/bin/openssl', '/usr/local/bin/openssl']) },
];

/** Installs what is missing where this may do so; else says what to install. A test that lacks it fails, and is not skipped. */
function installPrograms() {
  const missing = PROGRAMS.filter((program) => !program.there()).flatMap(({ packages }) => packages);
  if (missing.length === 0) return;
  if (existsSync('/etc/debian_version') && process.getuid?.() === 0) {
    process.stdout.write(`Installing ${missing.join(', ')}…\n`);
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    execFileSync('apt-get', ['update', '-qq'], { stdio: 'inherit', env });
    execFileSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env,
    });
    return;
  }
  process.stdout.write(
    `The tests need ${missing.join(', ')}. Install them: apt-get install ${missing.join(' ')} (as root on Debian). CHROMIUM may name another browser.\n`,
  );
}

/** Counts from a report that vitest wrote. */
function countUnit(file) {
  if (!existsSync(file)) {
    failed += 1;
    failures.push('the unit tests ended without a report');
    return;
  }
  const report = JSON.parse(readFileSync(file, 'utf8'));
  passed += report.numPassedTests;
  failed +=
    report.numFailedTests +
    report.testResults.filter((suite) => suite.status === 'failed' && suite.assertionResults.length === 0).length;
  for (const suite of report.testResults) {
    const place = relative(process.cwd(), suite.name);
    if (suite.status === 'failed' && suite.assertionResults.length === 0) failures.push(`${place}\n${firstLines(suite.message)}`);
    for (const test of suite.assertionResults)
      if (test.status === 'failed') failures.push(`${place}: ${test.fullName}\n${firstLines(test.failureMessages.join('\n'))}`);
  }
}

function countBrowser(file) {
  if (!existsSync(file)) {
    failed += 1;
    failures.push('the browser tests ended without a report');
    return;
  }
  const { stats } = JSON.parse(readFileSync(file, 'utf8'));
  passed += stats.expected + stats.flaky;
  failed += stats.unexpected;
  if (stats.flaky > 0) process.stdout.write(`${stats.flaky} of the browser tests passed at the second try only\n`);
}

installPackages();
installPrograms();
mkdirSync('test-results', { recursive: true });
step('lint and the order of the folders', 'npm', ['run', '-s', 'lint']);
step('types', 'npm', ['run', '-s', 'types']);
process.stdout.write('\n── unit and engine tests\n');
spawnSync(
  'npx',
  ['--no-install', 'vitest', 'run', '--reporter=default', '--reporter=json', '--outputFile.json=test-results/unit.json'],
  { stdio: 'inherit' },
);
countUnit('test-results/unit.json');
buildIfStale();
process.stdout.write('\n── browser tests\n');
spawnSync('npx', ['--no-install', 'playwright', 'test'], {
  stdio: 'inherit',
  env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_NAME: 'test-results/browser.json' },
});
countBrowser('test-results/browser.json');
if (failures.length > 0) process.stdout.write(`\n── what failed\n${failures.join('\n')}\n`);
process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exitCode = failed === 0 ? 0 : 1;
