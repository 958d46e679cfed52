import type { Problem } from '../engine.js';
import { beyondNumbers } from '../numbers.js';
import { NotRead } from '../plain-rows.js';
import { networkProblem } from '../server/network.js';

/**
 * A driver's error in words for a person (SQLSTATE: PostgreSQL, appendix A). What no person can cause is thrown on.
 */
export function problemOf(error: unknown, label: string): Problem {
  if (error instanceof NotRead) return { code: 'refused', message: error.message };
  const network = networkProblem(error, label);
  if (network !== null) return network;
  if (!(error instanceof Error)) throw error;
  const { code, message } = error as Error & { code?: unknown };
  if (typeof code !== 'string') {
    if (/password|SASL|SCRAM/i.test(message)) return wrongPassword(label);
    if (/Connection terminated|connection.*(closed|ended)|Client was closed/i.test(message)) return lost(label);
    throw error;
  }
  if (code === '57014') return { code: 'timeout', message: `${label} stopped the statement: it took longer than it may.` };
  if (code === '55P03')
    return { code: 'busy', message: `${label}: another program holds a lock that this waits for. Try again.` };
  if (code === 'XX001' || code === 'XX002')
    return {
      code: 'damaged',
      message: `${label} is damaged: ${plain(message)}. Set its folder aside, and begin with a new one.`,
    };
  if (code.startsWith('28')) return wrongPassword(label);
  if (code === '3D000') return { code: 'missing', message: `${label}: there is no such database on the server.` };
  if (code === '3F000') return { code: 'missing', message: `${label}: there is no such schema.` };
  if (code === '42501') return { code: 'refused', message: `${label}: the login may not do this (${plain(message)}).` };
  if (code === '25006') return { code: 'refused', message: `${label} is only read from, never written.` };
  if (code === '53300') return { code: 'busy', message: `${label} takes no more connections now. Try again in a moment.` };
  if (code.startsWith('53')) return { code: 'full', message: `${label} has no room left: ${plain(message)}.` };
  if (code.startsWith('57P') || code.startsWith('08')) return lost(label);
  if (code.startsWith('23')) return { code: 'constraint', message: `${label}: ${plain(message)}.` };
  if (code === '22003') return { code: 'statement', message: beyondNumbers(label) };
  if (code === '54000' || code === '22P05')
    return {
      code: 'statement',
      message: `${label}: the statement makes a value that is larger than PostgreSQL can hold. Ask for less of it.`,
    };
  if (code === '2201W' || code === '2201X')
    return { code: 'statement', message: `${label}: a limit and an offset are 0 or more. Give another value.` };
  if (code === '42P01' || code === '42703')
    return { code: 'statement', message: `${label}: ${plain(message)}. The text has it, and this database has not.` };
  return { code: 'statement', message: `PostgreSQL could not run the statement on ${label}: ${plain(message)}.` };
}

function wrongPassword(label: string): Problem {
  return { code: 'login', message: `${label} does not let this login in. Look at the user’s name, and give the password again.` };
}

function lost(label: string): Problem {
  return { code: 'unreachable', message: `The connection to ${label} was lost. Is the server running? Try again.` };
}

function plain(message: string): string {
  return message.replace(/\.$/, '');
}
