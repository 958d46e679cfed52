import type { Problem } from '../engine.js';
import { beyondNumbers } from '../numbers.js';
import { NotRead } from '../plain-rows.js';
import { networkProblem } from '../server/network.js';

/**
 * A driver's error in words for a person (MariaDB, “MariaDB Error Codes”). What no person can cause is thrown on.
 */
export function problemOf(error: unknown, label: string): Problem {
  if (error instanceof NotRead) return { code: 'refused', message: error.message };
  const network = networkProblem(error, label);
  if (network !== null) return network;
  if (!(error instanceof Error) || !('errno' in error)) throw error;
  const { errno, sqlMessage, cause } = error as Error & { errno: unknown; sqlMessage?: string | null };
  if (cause instanceof Error && 'errno' in cause && cause !== error) return problemOf(cause, label);
  const message = (sqlMessage ?? error.message).replace(/\.$/, '');
  switch (Number(errno)) {
    case 1045:
    case 1698:
      return {
        code: 'login',
        message: `${label} does not let this login in. Look at the user’s name, and give the password again.`,
      };
    case 1044:
    case 1142:
    case 1143:
    case 1227:
    case 1370:
      return { code: 'refused', message: `${label}: the login may not do this (${message}).` };
    case 1049:
      return { code: 'missing', message: `${label}: there is no such database on the server.` };
    case 1040:
    case 1203:
    case 1226:
      return { code: 'busy', message: `${label} takes no more connections now. Try again in a moment.` };
    case 1205:
    case 1213:
      return { code: 'busy', message: `${label}: another program holds a lock that this waits for. Try again.` };
    case 1969:
    case 1317:
      return { code: 'timeout', message: `${label} stopped the statement: it took longer than it may.` };
    case 1792:
    case 1290:
      return { code: 'refused', message: `${label} is only read from, never written.` };
    case 1021:
    case 1114:
      return { code: 'full', message: `${label} has no room left: ${message}.` };
    case 1053:
    case 1080:
    case 1152:
    case 1158:
    case 1159:
    case 1160:
    case 1161:
    case 1927:
    case 2006:
    case 2013:
      return lost(label);
    case 1690:
    case 1264:
      return { code: 'statement', message: beyondNumbers(label) };
    case 1301:
    case 1153:
      return {
        code: 'statement',
        message: `${label}: the statement makes a value that is larger than MariaDB lets through. Ask for less of it.`,
      };
    case 1054:
    case 1146:
      return { code: 'statement', message: `${label}: ${message}. The text has it, and this database has not.` };
    default:
  }
  // The driver numbers its own errors from 45000 on: the socket is gone, or the pool gave up.
  if (Number(errno) >= 45_000) return lost(label);
  return { code: 'statement', message: `MariaDB could not run the statement on ${label}: ${message}.` };
}

function lost(label: string): Problem {
  return { code: 'unreachable', message: `The connection to ${label} was lost. Is the server running? Try again.` };
}
