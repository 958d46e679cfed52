import type { Problem } from '../engine.js';

/** The problem of a connection that was never made; null for any other error. */
export function networkProblem(error: unknown, label: string): Problem | null {
  if (!(error instanceof Error)) return null;
  const { code, message } = error as Error & { code?: unknown };
  const unreachable = (why: string): Problem => ({
    code: 'unreachable',
    message: `${label} cannot be reached: ${why}${why.endsWith('?') ? '' : '.'}`,
  });
  switch (code) {
    case 'ECONNREFUSED':
      return unreachable('nothing listens there. Is the server running, and is the port right?');
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
      return unreachable('there is no host of that name');
    case 'ETIMEDOUT':
    case 'EHOSTUNREACH':
    case 'ENETUNREACH':
      return unreachable('the host does not answer');
    case 'ECONNRESET':
    case 'EPIPE':
      return unreachable('the server ended the connection');
    case 'SELF_SIGNED_CERT_IN_CHAIN':
    case 'DEPTH_ZERO_SELF_SIGNED_CERT':
    case 'UNABLE_TO_VERIFY_LEAF_SIGNATURE':
    case 'ERR_TLS_CERT_ALTNAME_INVALID':
    case 'CERT_HAS_EXPIRED':
      return {
        code: 'unreachable',
        message: `${label}: the server’s certificate cannot be trusted (${message}). Name its authority with ca=FILE, or do without the check: tls=on.`,
      };
    default:
  }
  if (/does not support SSL|server does not support TLS|SSL not enabled/i.test(message))
    return { code: 'unreachable', message: `${label}: the server offers no TLS. Say tls=off to go without.` };
  if (/timeout expired|connect.*timeout|retrieve connection from pool/i.test(message))
    return unreachable('it did not answer in time');
  return null;
}
