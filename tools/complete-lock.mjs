/**
 * Completes package-lock.json with the optional packages of other systems. A registry that lacks some of them makes
 * npm leave them out, and then `npm ci` refuses the lock file ("Missing … from lock file"). Run after each change of
 * the packages: node tools/complete-lock.mjs
 */
import { readFileSync, writeFileSync } from 'node:fs';

const FILE = new URL('../package-lock.json', import.meta.url);
const SYSTEMS = ['android', 'darwin', 'freebsd', 'linux', 'netbsd', 'openbsd', 'openharmony', 'sunos', 'win32', 'aix'];
const PROCESSORS = ['arm64', 'x64', 'arm', 'ia32', 'ppc64', 'riscv64', 's390x', 'wasm32', 'mips64el', 'loong64'];

const lock = JSON.parse(readFileSync(FILE, 'utf8'));
const { packages } = lock;

function isThere(owner, name) {
  let at = owner;
  for (;;) {
    if (packages[`${at === '' ? '' : `${at}/`}node_modules/${name}`] !== undefined) return true;
    if (at === '') return false;
    const end = at.lastIndexOf('/node_modules/');
    at = end < 0 ? '' : at.slice(0, end);
  }
}

/** What a package for one system says of itself, read off its name. */
function platformOf(name) {
  const words = name.split(/[-/]/);
  const os = SYSTEMS.filter((system) => words.includes(system));
  const cpu = PROCESSORS.filter((processor) => words.includes(processor));
  const libc = words.includes('musl') ? ['musl'] : words.includes('gnu') ? ['glibc'] : [];
  return { ...(cpu.length > 0 && { cpu }), ...(libc.length > 0 && { libc }), ...(os.length > 0 && { os }) };
}

let added = 0;
for (const [owner, entry] of Object.entries(packages)) {
  for (const [name, version] of Object.entries(entry.optionalDependencies ?? {})) {
    if (isThere(owner, name)) continue;
    packages[`node_modules/${name}`] = {
      version,
      ...(entry.dev && { dev: true }),
      license: entry.license,
      optional: true,
      ...platformOf(name),
      engines: entry.engines,
    };
    added += 1;
  }
}
lock.packages = Object.fromEntries(Object.entries(packages).sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0)));
writeFileSync(FILE, `${JSON.stringify(lock, null, 2)}\n`);
process.stdout.write(`${added} optional packages added to package-lock.json\n`);
