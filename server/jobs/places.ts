import { readAddress, type ServerAccess, writeAddress } from '../../engines/index.js';
import { PASSWORD_VARIABLE, PasswordKeeper, withAuthority } from '../../services/index.js';
import type { StoredTree } from '../store/index.js';

/** The access to a server's database; or why there is none, in words. */
export type Access = { readonly access: ServerAccess } | { readonly problem: string };

/** The servers that trees use, and their passwords. */
export class PlacesInUse {
  private readonly keeper: PasswordKeeper;
  /** Passwords that a person gave for as long as the program runs, by address. */
  private readonly given = new Map<string, string>();

  constructor(folder: string) {
    this.keeper = new PasswordKeeper(folder);
  }

  /** How a tree's server is opened. */
  async of({ address, password }: StoredTree, milliseconds: number): Promise<Access> {
    return this.kept(address ?? '', password, milliseconds);
  }

  /** How an address is opened with a password that was kept for it, encrypted. */
  async kept(address: string, password: string | null, milliseconds: number): Promise<Access> {
    return this.at(address, password === null ? null : this.keeper.decrypt(password), milliseconds);
  }

  /** How an address is opened: with the given password, one that was given before, or that of the environment. */
  async at(written: string, password: string | null, milliseconds: number): Promise<Access> {
    const read = readAddress(written);
    if (!read.ok) return { problem: read.problem };
    if (read.place.kind !== 'server') return { problem: `${written} names no server.` };
    const trusted = await withAuthority(read.place.address);
    if ('problem' in trusted) return trusted;
    const shown = writeAddress(read.place);
    const known = password ?? read.password ?? this.given.get(shown) ?? process.env[PASSWORD_VARIABLE] ?? null;
    const { engine, host, database } = trusted.address;
    const label = `${engine}://${host}/${database}`;
    return { access: { address: trusted.address, password: known, place: null, label, milliseconds } };
  }

  /** Remembers a password that let somebody in: until the program ends, and as it is kept where that is asked for. */
  remember(address: string, password: string | null, keep: boolean): string | null {
    if (password === null) return null;
    this.given.set(address, password);
    return keep ? this.keeper.encrypt(password) : null;
  }
}

/** An address as it is kept and shown: a password that stood in it is taken out. */
export function shownAddress(written: string): string {
  const read = readAddress(written);
  return read.ok ? writeAddress(read.place) : written;
}

/** The password that stands in an address, where a person put it there. */
export function passwordIn(written: string): string | null {
  const read = readAddress(written);
  return read.ok ? read.password : null;
}
