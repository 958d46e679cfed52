/** Installs the packages of the lock file where they are missing or older than it. */
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';

const STAMP = 'node_modules/.family-tree-lock';

/** Runs a program with its output in sight. @throws where it fails */
export function run(program, args, options = {}) {
  execFileSync(program, args, { stdio: 'inherit', ...options });
}

export function installPackages() {
  const wanted = createHash('sha256').update(readFileSync('package-lock.json')).digest('hex');
  const there = existsSync(STAMP) ? readFileSync(STAMP, 'utf8') : '';
  if (there === wanted) return;
  process.stdout.write('Installing packages; better-sqlite3 is compiled, which takes a few minutes the first time…\n');
  run('npm', ['ci', '--no-audit', '--no-fund']);
  writeFileSync(STAMP, wanted);
}
