/** `npm test`: installs what is missing, then lint, types, unit and engine tests, build, browser tests. */
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { buildIfStale } from './build.mjs';
import { installPackages } from './install.mjs';

const BROWSERS = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];
let passed = 0;
let failed = 0;

/** A step that is one test: it passes where the program ends well. */
function step(name, program, args) {
  process.stdout.write(`\n── ${name}\n`);
  const { status } = spawnSync(program, args, { stdio: 'inherit' });
  if (status === 0) passed += 1;
  else failed += 1;
}

function installBrowser() {
  if (BROWSERS.some((path) => existsSync(path))) return;
  const debian = existsSync('/etc/debian_version');
  if (debian && process.getuid?.() === 0) {
    process.stdout.write('Installing chromium…\n');
    execFileSync('apt-get', ['update', '-qq'], { stdio: 'inherit' });
    execFileSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium', 'sqlite3'], {
      stdio: ['ignore', 'ignore', 'inherit'],
    });
    return;
  }
  process.stdout.write(
    'The browser tests need Chromium. Install it: apt-get install chromium sqlite3 (as root on Debian), or set CHROMIUM to its path.\n',
  );
}

/** Counts from a report that vitest wrote. */
function countUnit(file) {
  if (!existsSync(file)) {
    failed += 1;
    return;
  }
  const report = JSON.parse(readFileSync(file, 'utf8'));
  passed += report.numPassedTests;
  failed +=
    report.numFailedTests +
    report.testResults.filter((suite) => suite.status === 'failed' && suite.assertionResults.length === 0).length;
}

function countBrowser(file) {
  if (!existsSync(file)) {
    failed += 1;
    return;
  }
  const { stats } = JSON.parse(readFileSync(file, 'utf8'));
  passed += stats.expected + stats.flaky;
  failed += stats.unexpected;
  if (stats.flaky > 0) process.stdout.write(`${stats.flaky} of the browser tests passed at the second try only\n`);
}

installPackages();
installBrowser();
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
process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exitCode = failed === 0 ? 0 : 1;
