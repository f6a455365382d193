/** Names under which this server may be asked for, and the one that it goes by. */
const LOCAL_HOST = /^(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?$/i;

export const isLocalHost = (host: string): boolean => LOCAL_HOST.test(host);

/**
 * The one address of a page, where it was asked for under another name of this machine. What waits in a browser belongs
 * to an address: under a second one it would not be found.
 */
export function canonicalAddress(host: string, path: string): string | null {
  const port = /:(\d{1,5})$/.exec(host)?.[1];
  const own = `127.0.0.1${port ? `:${port}` : ''}`;
  return host.toLowerCase() === own ? null : `http://${own}${path}`;
}
