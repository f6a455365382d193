/** The outer door: what holds for every connection, before any page or route is asked. */
import type { IncomingMessage, ServerResponse } from 'node:http';
import { randomBytes } from 'node:crypto';
import { canonicalAddress, isLocalHost } from './hosts';

/**
 * Headers of every answer. `nonce`: scripts within pages carry it; all others come from here. Styles stand within
 * elements in many places, so they are allowed. Pages are isolated: memory is shared between their workers.
 */
export function securityHeaders(nonce: string, dev = false): Record<string, string> {
  const policy = [
    "default-src 'self'",
    // WebAssembly is compiled from bytes; the development server evaluates what it sends.
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'${dev ? " 'unsafe-eval'" : ''}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' blob: data:",
    `connect-src 'self'${dev ? ' ws:' : ''}`,
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
  return {
    'Content-Security-Policy': policy,
    'Referrer-Policy': 'no-referrer',
    'X-Content-Type-Options': 'nosniff',
    'X-Frame-Options': 'DENY',
    'Cross-Origin-Opener-Policy': 'same-origin',
    'Cross-Origin-Embedder-Policy': 'require-corp',
    'Cross-Origin-Resource-Policy': 'same-origin',
  };
}

/** Answers what is not let in, and sends pages to the one address; true: done. Else the request goes on, with its nonce. */
export function atTheDoor(request: IncomingMessage, response: ServerResponse, dev = false): boolean {
  const headers = securityHeaders(randomBytes(16).toString('base64'), dev);
  for (const [name, value] of Object.entries(headers)) response.setHeader(name, value);
  // Next reads the nonce of its own scripts from here.
  request.headers['content-security-policy'] = headers['Content-Security-Policy'];
  const host = request.headers.host ?? '';
  if (!isLocalHost(host)) {
    answer(response, 403, 'This address is not one of Brindle’s: it answers on 127.0.0.1 only.');
    return true;
  }
  const path = request.url ?? '/';
  const elsewhere =
    /^\/(api|_next)\//.test(path) || !path.startsWith('/') || path.startsWith('//') ? null : canonicalAddress(host, path);
  if (elsewhere && (request.method === 'GET' || request.method === 'HEAD')) {
    response.setHeader('Location', elsewhere);
    answer(response, 307, 'Brindle goes by 127.0.0.1.');
    return true;
  }
  return false;
}

function answer(response: ServerResponse, status: number, message: string): void {
  response.statusCode = status;
  response.setHeader('Content-Type', 'application/json');
  response.end(JSON.stringify({ message }));
}

export const PATIENCE = {
  /** Until the headers of a request are there. */
  headersMs: 15_000,
  /** A body may stop for so long. Loopback delivers at once; a disk under load may take seconds. */
  stalledMs: 30_000,
  /** A whole request with its body: a gibibyte at 2 MiB a second. */
  requestMs: 600_000,
} as const;

/** Closes the connection when a body stops coming. */
export function closeWhenStalled(request: IncomingMessage, stalledMs: number = PATIENCE.stalledMs): void {
  if (request.complete) return;
  let seen = request.socket.bytesRead;
  const timer = setInterval(() => {
    if (request.complete || request.destroyed) return clearInterval(timer);
    const { bytesRead } = request.socket;
    if (bytesRead === seen) {
      clearInterval(timer);
      request.socket.destroy();
    }
    seen = bytesRead;
  }, stalledMs);
  timer.unref();
  request.on('close', () => clearInterval(timer));
}
