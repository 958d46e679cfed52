import { Agent, request } from 'node:http';
import { namedKeys } from '../core/samples/index.js';
import { openSqlite } from '../engines/index.js';
import { type ServingLive, serveLive } from '../server/index.js';
import { makeTestDatabase } from '../tests/database.js';
import { makeOn, openEngines } from '../tests/engines.js';
import { startServers } from '../tools/servers.js';

const TREE = `tree 'Loaded'
  actor Player

entity Player in players
  id    integer key
  name  text(40)

entity Loan in loans
  id    integer key
  fee   integer
  memo  text(60)

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

wall own
  Loan where borrower = me

sample Player 64
sample Loan 640
  fee between 1 and 900
`;

/** So many connections ask at a time, for so long: \`SECONDS=60 npm run bench live-load\`. */
const CONNECTIONS = 64;
const SECONDS = Number(process.env.SECONDS ?? 60);
const MEDIA = 'application/vnd.api+json';
const NOW = '2031-04-12T09:00:00.000000Z';

interface Told {
  readonly status: number;
  readonly tag: string;
  readonly document: {
    readonly data: { readonly id: string; readonly attributes: { readonly fee: number; readonly memo: string } } & readonly {
      readonly relationships: { readonly borrower: { readonly data: { readonly id: string } } };
    }[];
  };
}

/** Reads and writes of many connections at once: no answer is wrong, and nothing that was told as written is lost. */
export async function benchLiveLoad(): Promise<string[]> {
  const lines: string[] = [];
  const local = await makeTestDatabase(TREE);
  const writer = openSqlite({ path: local.path, mode: 'write', milliseconds: 30_000 });
  const open = {
    design: local.design,
    sampleKeys: namedKeys(local.design.model, NOW),
    madeHere: true,
    schemas: null,
    revision: 1,
  };
  const toWrite = () => ({ engine: writer, close: () => Promise.resolve() });
  lines.push(await loaded('SQLite', { ...open, engine: local.engine, toWrite }));
  await writer.close();
  await local.close();
  const servers = await startServers();
  const engines = openEngines(servers);
  try {
    const { design, database } = await makeOn(engines, 'postgres', TREE);
    const { engine } = database;
    const own = () => ({ engine, close: () => Promise.resolve() });
    lines.push(await loaded('PostgreSQL', { ...open, design, engine, toWrite: own }));
    await database.remove();
  } finally {
    await engines.close();
    await servers.stop();
  }
  return lines;
}

type Open = Parameters<typeof serveLive>[0]['open'];

async function loaded(title: string, open: Open): Promise<string> {
  const serving = await serveLive({ name: 'x', open, host: '127.0.0.1', port: 0, token: null, origins: [], rate: 1e9 });
  const agent = new Agent({ keepAlive: true, maxSockets: CONNECTIONS + 1 });
  const times: { readonly reads: number[]; readonly writes: number[] } = { reads: [], writes: [] };
  const until = performance.now() + SECONDS * 1000;
  let clashes = 0;
  try {
    const asking = (as: string) => asker(serving, agent, as);
    const kept = await Promise.all(
      Array.from({ length: CONNECTIONS }, async (_, at) => {
        const as = String(at + 1);
        const ask = asking(as);
        const made = new Map<string, number>();
        for (let turn = 0; performance.now() < until; turn++) {
          const started = performance.now();
          const isWrite = turn % 4 === 3;
          if (isWrite) clashes += await write(ask, as, made, turn);
          else await read(ask, as);
          times[isWrite ? 'writes' : 'reads'].push(performance.now() - started);
          // A client that goes away in the middle.
          if (turn % 50 === 49) await goAway(serving, as);
        }
        return { as, made };
      }),
    );
    let written = 0;
    for (const { as, made } of kept)
      for (const [id, fee] of made) {
        const { status, document } = await asking(as)('GET', `loans/${id}`);
        if (status !== 200 || document.data.attributes.fee !== fee)
          throw new Error(`${title}: loan ${id} of ${as} was lost: ${status}`);
        written += 1;
      }
    const all = [...times.reads, ...times.writes];
    const p99 = (values: readonly number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length * 0.99)] ?? 0;
    return `${title}: ${all.length.toLocaleString('en')} requests of ${CONNECTIONS} connections in ${SECONDS} s, ${written.toLocaleString('en')} rows made and none lost, ${clashes} told that another was first; p99 of reads ${p99(times.reads).toFixed(0)} ms, of writes ${p99(times.writes).toFixed(0)} ms`;
  } finally {
    agent.destroy();
    await serving.close();
  }
}

type Ask = (method: string, path: string, body?: object, match?: string) => Promise<Told>;

function asker({ address }: ServingLive, agent: Agent, as: string): Ask {
  const { hostname, port, pathname } = new URL(address);
  return (method, path, body, match) =>
    new Promise((done, failed) => {
      const headers = {
        actor: as,
        ...(body === undefined ? {} : { 'content-type': MEDIA }),
        ...(match === undefined ? {} : { 'if-match': match }),
      };
      const sent = request({ hostname, port, agent, method, path: `${pathname}/${path}`, headers }, (answer) => {
        const parts: Buffer[] = [];
        answer.on('data', (part: Buffer) => parts.push(part));
        answer.on('end', () => {
          const text = Buffer.concat(parts).toString();
          done({
            status: answer.statusCode ?? 0,
            tag: answer.headers.etag ?? '',
            document: (text === '' ? {} : JSON.parse(text)) as Told['document'],
          });
        });
      });
      sent.on('error', failed);
      sent.end(body === undefined ? undefined : JSON.stringify(body));
    });
}

/** A page of loans, all of them the player’s own. */
async function read(ask: Ask, as: string): Promise<void> {
  const { status, document } = await ask('GET', 'loans?include=borrower&page[size]=50&sort=-fee');
  if (status !== 200 || document.data.some(({ relationships }) => relationships.borrower.data.id !== as))
    throw new Error(`a wrong answer for ${as}: ${status}`);
}

/** Makes a loan, or changes one that was made; gives how often another was first. */
async function write(ask: Ask, as: string, made: Map<string, number>, turn: number): Promise<number> {
  const [id] = made.keys();
  if (id === undefined || turn % 8 === 3) {
    const attributes = { fee: turn, memo: `by ${as}, turn ${turn}` };
    const { status, document } = await ask('POST', `players/${as}/loans`, { data: { type: 'loans', attributes } });
    if (status !== 201) throw new Error(`a loan of ${as} was not made: ${status}`);
    made.set(document.data.id, turn);
    return 0;
  }
  const before = await ask('GET', `loans/${id}`);
  const changed = await ask('PATCH', `loans/${id}`, { data: { type: 'loans', id, attributes: { fee: turn } } }, before.tag);
  if (changed.status === 412) return 1;
  if (changed.status !== 200) throw new Error(`loan ${id} of ${as} was not changed: ${changed.status}`);
  made.set(id, turn);
  return 0;
}

/** Asks, and does not wait for the answer. */
function goAway({ address }: ServingLive, as: string): Promise<void> {
  const leaving = new AbortController();
  const asked = fetch(`${address}/loans?include=borrower&page[size]=500`, { headers: { actor: as }, signal: leaving.signal });
  setTimeout(() => leaving.abort(), 2);
  return asked.then(
    () => undefined,
    () => undefined,
  );
}
