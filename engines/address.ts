/** Where a server's database is, and as whom; the password stands elsewhere. */
export interface Address {
  readonly engine: 'postgres' | 'mariadb';
  readonly host: string;
  readonly port: number;
  readonly user: string;
  /** Empty for the server itself. */
  readonly database: string;
  /** *on*: what is sent is encrypted. *checked*: and the server has to prove who it is. */
  readonly tls: 'off' | 'on' | 'checked';
  /** A file with the certificate of the authority that the server's own is to be of. */
  readonly authorityFile: string | null;
  /** What stands in that file. */
  readonly authority: string | null;
}

/** A database as a person names it. */
export type DatabasePlace =
  | { readonly kind: 'file'; readonly file: string }
  | { readonly kind: 'embedded' }
  | { readonly kind: 'server'; readonly address: Address };

export type ReadAddress =
  | {
      readonly ok: true;
      readonly place: DatabasePlace /** One that stood in the address, where it must not stay. */;
      readonly password: string | null;
    }
  | { readonly ok: false; readonly problem: string };

const PORTS = { postgres: 5432, mariadb: 3306 } as const;
const SCHEMES: Readonly<Record<string, Address['engine']>> = {
  'postgres:': 'postgres',
  'postgresql:': 'postgres',
  'mariadb:': 'mariadb',
};
const LOOPBACK = ['localhost', '127.0.0.1', '::1'];
/** How PostgreSQL's own addresses ask for TLS (PostgreSQL, 34.1.1). */
const SSL_MODES: Readonly<Record<string, Address['tls']>> = {
  disable: 'off',
  allow: 'on',
  prefer: 'on',
  require: 'on',
  'verify-ca': 'checked',
  'verify-full': 'checked',
};

/** Reads `sqlite:FILE`, `postgres:embedded`, `postgres://user@host:port/database?tls=on` or `mariadb://…`. */
export function readAddress(written: string): ReadAddress {
  const text = written.trim();
  if (text.startsWith('sqlite:')) {
    const file = text.slice('sqlite:'.length);
    return file === '' ? wrong('sqlite: is followed by a file, as in sqlite:shop.db.') : found({ kind: 'file', file });
  }
  if (text === 'postgres:embedded') return found({ kind: 'embedded' });
  let url: URL;
  try {
    url = new URL(text);
  } catch {
    return wrong('Write it as sqlite:FILE, postgres:embedded, postgres://user@host/database or mariadb://user@host/database.');
  }
  const engine = SCHEMES[url.protocol];
  if (engine === undefined) {
    const ways = 'postgres://user@host/database, mariadb://user@host/database, sqlite:FILE or postgres:embedded';
    return wrong(`“${url.protocol}” names no engine that is known here. Write ${ways}.`);
  }
  if (url.hostname === '') return wrong('The address names no host, as in postgres://user@localhost/database.');
  const asked = url.searchParams.get('tls') ?? SSL_MODES[url.searchParams.get('sslmode') ?? ''] ?? null;
  const host = url.hostname.replace(/^\[|\]$/g, '');
  const tls = asked ?? (LOOPBACK.includes(host) ? 'off' : 'on');
  if (tls !== 'off' && tls !== 'on' && tls !== 'checked') return wrong(`tls=${tls}: say tls=off, tls=on or tls=checked.`);
  for (const name of url.searchParams.keys())
    if (!['tls', 'sslmode', 'ca'].includes(name)) return wrong(`“${name}” says nothing here: an address has tls= and ca=.`);
  const address: Address = {
    engine,
    host,
    port: url.port === '' ? PORTS[engine] : Number(url.port),
    user: decodeURIComponent(url.username),
    database: decodeURIComponent(url.pathname.replace(/^\//, '')),
    tls,
    authorityFile: url.searchParams.get('ca'),
    authority: null,
  };
  if (address.user === '') return wrong('The address names no user, as in postgres://user@host/database.');
  return {
    ok: true,
    place: { kind: 'server', address },
    password: url.password === '' ? null : decodeURIComponent(url.password),
  };
}

/** An address as it is shown and kept: without a password. */
export function writeAddress(place: DatabasePlace): string {
  if (place.kind === 'file') return `sqlite:${place.file}`;
  if (place.kind === 'embedded') return 'postgres:embedded';
  const { engine, host, port, user, database, tls, authorityFile } = place.address;
  const options = new URLSearchParams();
  if (tls !== (LOOPBACK.includes(host) ? 'off' : 'on')) options.set('tls', tls);
  if (authorityFile !== null) options.set('ca', authorityFile);
  const shownHost = host.includes(':') ? `[${host}]` : host;
  const shownPort = port === PORTS[engine] ? '' : `:${port}`;
  const query = options.size === 0 ? '' : `?${options.toString()}`;
  return `${engine}://${encodeURIComponent(user)}@${shownHost}${shownPort}/${encodeURIComponent(database)}${query}`;
}

function found(place: DatabasePlace): ReadAddress {
  return { ok: true, place, password: null };
}

function wrong(problem: string): ReadAddress {
  return { ok: false, problem };
}
