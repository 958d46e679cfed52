/** Real PostgreSQL and MariaDB servers for tests and benchmarks: in a temporary folder, on free ports, gone when they are stopped. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import {
  chmodSync,
  chownSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export interface Servers {
  /** Addresses of a login that may do everything, without the password. */
  readonly postgres: string;
  readonly mariadb: string;
  readonly password: string;
  /** The folder with the certificate that both servers show (`server.crt`). */
  readonly folder: string;
  stop(): Promise<void>;
}

const PASSWORD = 'kiln & ember';
const POSTGRES_FOLDERS = '/usr/lib/postgresql';
const PATIENCE = 60_000;

/** Starts both servers. @throws where one is not installed, with the words to install it by */
export async function startServers(): Promise<Servers> {
  const binaries = postgresBinaries();
  const mariadbd = ['/usr/sbin/mariadbd', '/usr/libexec/mariadbd', '/usr/bin/mariadbd'].find(existsSync);
  if (binaries === null || mariadbd === undefined) {
    const missing = [binaries === null ? 'postgresql' : '', mariadbd === undefined ? 'mariadb-server' : ''].filter(Boolean);
    throw new Error(`The engine tests need real servers. Install: apt-get install ${missing.join(' ')}`);
  }
  const folder = mkdtempSync(join(tmpdir(), 'family-tree-servers-'));
  chmodSync(folder, 0o755);
  makeCertificate(folder);
  const [postgres, mariadb] = await Promise.all([startPostgres(binaries, folder), startMariadb(mariadbd, folder)]);
  return {
    postgres: postgres.address,
    mariadb: mariadb.address,
    password: PASSWORD,
    folder,
    stop: async () => {
      // A fast shutdown: clients are sent away. What started the server as another user passes no signals on.
      const [id] = readFileSync(join(folder, 'postgres/postmaster.pid'), 'utf8').split('\n');
      await Promise.all([
        ended(postgres.process, () => process.kill(Number(id), 'SIGINT')),
        ended(mariadb.process, () => mariadb.process.kill('SIGTERM')),
      ]);
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

function postgresBinaries(): string | null {
  if (!existsSync(POSTGRES_FOLDERS)) return null;
  const versions = readdirSync(POSTGRES_FOLDERS)
    .filter((version) => existsSync(join(POSTGRES_FOLDERS, version, 'bin/postgres')))
    .sort((a, b) => Number(b) - Number(a));
  return versions[0] === undefined ? null : join(POSTGRES_FOLDERS, versions[0], 'bin');
}

function makeCertificate(folder: string): void {
  const files = ['-keyout', join(folder, 'server.key'), '-out', join(folder, 'server.crt')];
  const subject = ['-subj', '/CN=localhost', '-addext', 'subjectAltName=DNS:localhost,IP:127.0.0.1'];
  execFileSync('openssl', ['req', '-x509', '-newkey', 'rsa:2048', '-nodes', '-days', '2', ...subject, ...files], {
    stdio: 'ignore',
  });
}

interface Started {
  readonly process: ChildProcess;
  readonly address: string;
}

async function startPostgres(binaries: string, folder: string): Promise<Started> {
  const data = join(folder, 'postgres');
  const secret = join(folder, 'postgres-password');
  mkdirSync(data, { mode: 0o700 });
  writeFileSync(secret, PASSWORD);
  // PostgreSQL refuses to run as root.
  const asRoot = process.getuid?.() === 0;
  const [user, group] = asRoot ? idsOf('postgres') : [process.getuid?.() ?? 0, process.getgid?.() ?? 0];
  const key = join(data, 'server.key');
  const as = (program: string, args: readonly string[]): [string, string[]] =>
    asRoot ? ['runuser', ['-u', 'postgres', '--', program, ...args]] : [program, [...args]];
  for (const path of [data, secret]) chownSync(path, user, group);
  const [initialise, args] = as(join(binaries, 'initdb'), [
    ...['-D', data, '-U', 'keeper', '-E', 'UTF8', '--locale=C.UTF-8', '-A', 'scram-sha-256', `--pwfile=${secret}`, '--no-sync'],
  ]);
  execFileSync(initialise, args, { stdio: 'ignore', cwd: folder });
  execFileSync('cp', [join(folder, 'server.key'), key]);
  chownSync(key, user, group);
  chmodSync(key, 0o600);
  const port = await freePort();
  const settings = {
    ssl: 'on',
    ssl_cert_file: join(folder, 'server.crt'),
    ssl_key_file: key,
    fsync: 'off',
    full_page_writes: 'off',
    synchronous_commit: 'off',
    unix_socket_directories: '',
    listen_addresses: '127.0.0.1',
    port: String(port),
  };
  const [program, words] = as(join(binaries, 'postgres'), [
    '-D',
    data,
    ...Object.entries(settings).flatMap(([name, value]) => ['-c', `${name}=${value}`]),
  ]);
  const server = spawn(program, words, { stdio: ['ignore', 'ignore', 'pipe'], cwd: folder });
  await said(server, /ready to accept connections/, 'PostgreSQL');
  return { process: server, address: `postgres://keeper@127.0.0.1:${port}/postgres` };
}

async function startMariadb(mariadbd: string, folder: string): Promise<Started> {
  const data = join(folder, 'mariadb');
  mkdirSync(data);
  const port = await freePort();
  const first = join(folder, 'first.sql');
  writeFileSync(
    first,
    [
      'create database if not exists mysql;',
      'use mysql;',
      `create user 'keeper'@'%' identified by '${PASSWORD}';`,
      "grant all on *.* to 'keeper'@'%' with grant option;",
    ].join('\n'),
  );
  const common = ['--no-defaults', `--datadir=${data}`, `--user=${process.getuid?.() === 0 ? 'root' : (process.env.USER ?? '')}`];
  execFileSync('mariadb-install-db', [...common, '--auth-root-authentication-method=normal', '--skip-test-db'], {
    stdio: 'ignore',
    cwd: folder,
  });
  const server = spawn(
    mariadbd,
    [
      ...common,
      `--init-file=${first}`,
      `--port=${port}`,
      `--socket=${join(folder, 'mariadb.sock')}`,
      `--pid-file=${join(folder, 'mariadb.pid')}`,
      '--bind-address=127.0.0.1',
      '--innodb-flush-log-at-trx-commit=0',
      '--innodb-buffer-pool-size=256M',
      '--skip-log-bin',
      `--ssl-cert=${join(folder, 'server.crt')}`,
      `--ssl-key=${join(folder, 'server.key')}`,
    ],
    { stdio: ['ignore', 'ignore', 'pipe'], cwd: folder },
  );
  await said(server, /ready for connections/, 'MariaDB');
  return { process: server, address: `mariadb://keeper@127.0.0.1:${port}/` };
}

function idsOf(user: string): [number, number] {
  const id = (flag: string) => Number(execFileSync('id', [flag, user], { encoding: 'utf8' }));
  return [id('-u'), id('-g')];
}

async function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.on('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address();
      probe.close(() => resolve(typeof address === 'object' && address !== null ? address.port : 0));
    });
  });
}

/** Waits until a server has said that it takes connections. */
async function said(server: ChildProcess, words: RegExp, name: string): Promise<void> {
  let output = '';
  await new Promise<void>((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error(`${name} did not start:\n${output}`)), PATIENCE);
    server.stderr?.on('data', (chunk: Buffer) => {
      output = `${output}${chunk.toString()}`.slice(-8000);
      if (!words.test(output)) return;
      clearTimeout(timer);
      resolve();
    });
    server.on('exit', () => {
      clearTimeout(timer);
      reject(new Error(`${name} ended at once:\n${output}`));
    });
  });
}

async function ended(server: ChildProcess, end: () => void): Promise<void> {
  if (server.exitCode !== null) return;
  await new Promise<void>((resolve) => {
    server.on('exit', () => resolve());
    end();
  });
}
