import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Address } from '../engines/index.js';

const KEY_FILE = 'key';
const KEY_BYTES = 32;
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

/** Where a password is taken from where none is given: it never stands in an address. */
export const PASSWORD_VARIABLE = 'FAMILY_TREE_PASSWORD';

/**
 * Keeps passwords encrypted (AES-256-GCM, NIST SP 800-38D), with a key that lies in a file of the data folder that only
 * its owner may read. Whoever has the store alone has no password.
 */
export class PasswordKeeper {
  constructor(private readonly folder: string) {}

  encrypt(password: string): string {
    const nonce = randomBytes(NONCE_BYTES);
    const cipher = createCipheriv('aes-256-gcm', this.key(), nonce);
    const sealed = Buffer.concat([cipher.update(password, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64');
  }

  /** The password; null where it was encrypted with another key, or is damaged. */
  decrypt(kept: string): string | null {
    try {
      const bytes = Buffer.from(kept, 'base64');
      const decipher = createDecipheriv('aes-256-gcm', this.key(), bytes.subarray(0, NONCE_BYTES));
      decipher.setAuthTag(bytes.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES));
      return Buffer.concat([decipher.update(bytes.subarray(NONCE_BYTES + TAG_BYTES)), decipher.final()]).toString('utf8');
    } catch {
      return null;
    }
  }

  private key(): Buffer {
    const path = join(this.folder, KEY_FILE);
    if (!existsSync(path)) writeFileSync(path, randomBytes(KEY_BYTES), { mode: 0o600, flag: 'wx' });
    return readFileSync(path);
  }
}

/** An address with the certificate that its `ca=` names. */
export async function withAuthority(address: Address): Promise<{ readonly address: Address } | { readonly problem: string }> {
  if (address.authorityFile === null) return { address };
  try {
    return { address: { ...address, authority: await readFile(address.authorityFile, 'utf8') } };
  } catch {
    return { problem: `ca=${address.authorityFile}: this file cannot be read.` };
  }
}
