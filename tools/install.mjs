/** Installs the packages of the lock file where they are missing or older than it. */
import { execFileSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';

/** npm writes this file when it has put everything in place. */
const INSTALLED = 'node_modules/.package-lock.json';

/** Runs a program with its output in sight. @throws where it fails */
export function run(program, args, options = {}) {
  execFileSync(program, args, { stdio: 'inherit', ...options });
}

export function installPackages() {
  if (existsSync(INSTALLED) && statSync(INSTALLED).mtimeMs >= statSync('package-lock.json').mtimeMs) return;
  process.stdout.write('Installing packages; better-sqlite3 is compiled, which takes a few minutes the first time…\n');
  run('npm', ['ci', '--no-audit', '--no-fund']);
}
