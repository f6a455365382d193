import { createServer, request, type Server } from 'node:http';
import { connect, type AddressInfo } from 'node:net';
import { guarded, guardedPiece, readBody, readJson, sizeInWords, TooLarge } from '../access';
import { atTheDoor, closeWhenStalled, securityHeaders } from '../door';
import { faultOf } from '../faults';
import { canonicalAddress, isLocalHost } from '../hosts';
import { UnreadablePiece } from '../pieces';
import { turns } from '../turns';

describe('names of this machine', () => {
  test.each(['127.0.0.1', 'localhost:3000', '[::1]:80', 'LOCALHOST'])('%s is one', (host) =>
    expect(isLocalHost(host)).toBe(true),
  );
  test.each(['evil.example', 'localhost.evil.example', '127.0.0.1.evil.example', '', '0.0.0.0', '127.0.0.1:x', '10.0.0.1'])(
    '"%s" is none',
    (host) => expect(isLocalHost(host)).toBe(false),
  );
  test('pages have one address: what waits in a browser belongs to it', () => {
    expect(canonicalAddress('127.0.0.1:3000', '/x')).toBeNull();
    expect(canonicalAddress('localhost:3000', '/pieces/a?b=1')).toBe('http://127.0.0.1:3000/pieces/a?b=1');
    expect(canonicalAddress('localhost', '/')).toBe('http://127.0.0.1/');
  });
});

describe('the outer door', () => {
  let server: Server;
  let port: number;
  beforeAll(async () => {
    server = createServer((req, res) => {
      closeWhenStalled(req, 60);
      if (!atTheDoor(req, res)) req.on('data', () => undefined).on('end', () => res.end(req.headers['content-security-policy']));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    ({ port } = server.address() as AddressInfo);
  });
  afterAll(() => void server.close());
  const get = (path: string, host = `127.0.0.1:${port}`, method = 'GET') =>
    new Promise<{ status: number; headers: Record<string, string>; body: string }>((resolve, reject) =>
      request({ port, host: '127.0.0.1', path, method, headers: { host } }, (res) => {
        let body = '';
        res.on('data', (c: Buffer) => (body += c.toString()));
        res.on('end', () => resolve({ status: res.statusCode!, headers: res.headers as Record<string, string>, body }));
      })
        .on('error', reject)
        .end(),
    );

  test('every answer carries the policy; each its own nonce, and pages are told it', async () => {
    const [a, b] = [await get('/'), await get('/')];
    for (const name of [
      'content-security-policy',
      'referrer-policy',
      'x-content-type-options',
      'x-frame-options',
      'cross-origin-opener-policy',
    ])
      expect(a.headers[name]).toBeTruthy();
    expect(a.headers['content-security-policy']).toMatch(
      /script-src 'self' 'nonce-[^']+' 'wasm-unsafe-eval';.*frame-ancestors 'none'/,
    );
    expect(a.headers['content-security-policy']).not.toBe(b.headers['content-security-policy']);
    expect(a.body).toBe(a.headers['content-security-policy']);
    expect(securityHeaders('n')['Content-Security-Policy']).not.toContain("'unsafe-eval'");
  });

  test('foreign hosts get no page either; another name of this machine is sent to the one address', async () => {
    expect((await get('/', 'evil.example')).status).toBe(403);
    expect((await get('/api/pieces', 'evil.example')).status).toBe(403);
    const moved = await get('/pieces/a', `localhost:${port}`);
    expect([moved.status, moved.headers.location]).toEqual([307, `http://127.0.0.1:${port}/pieces/a`]);
    expect((await get('/api/health', `localhost:${port}`)).status).toBe(200);
    expect((await get('//evil.example/x', `localhost:${port}`)).headers.location).toBeUndefined();
  });

  test('a connection whose body stops coming is closed', async () => {
    const closed = await new Promise<boolean>((resolve) => {
      const socket = connect(port, '127.0.0.1', () =>
        socket.write(`POST / HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Length: 100\r\n\r\nhalf`),
      );
      socket.on('close', () => resolve(true)).on('error', () => undefined);
    });
    expect(closed).toBe(true);
  });
});

describe('routes', () => {
  const own = (init: RequestInit = {}, path = '/x') =>
    new Request(`http://127.0.0.1:3000${path}`, { ...init, headers: { host: '127.0.0.1:3000' } });
  const answer = async (handler: (r: Request, c: never) => Promise<Response>, request: Request, context = undefined as never) => {
    const response = await handler(request, context);
    return [response.status, ((await response.json()) as { message: string }).message] as const;
  };
  const piece = (id: string) => ({ params: Promise.resolve({ id }) }) as never;

  test('what can be no address of a piece is said to be none, before anybody is asked', async () => {
    const handler = guardedPiece(async (_r, id) => Response.json({ message: id }));
    expect(await answer(handler, own(), piece('demo-lantern'))).toEqual([200, 'demo-lantern']);
    for (const bad of ['../../etc', 'a b', '', 'x'.repeat(61), 'ä'])
      expect((await answer(handler, own(), piece(bad)))[0]).toBe(400);
  });

  test('JSON that nests beyond reason is no JSON', async () => {
    const body = (depth: number) => own({ method: 'POST', body: '['.repeat(depth) + ']'.repeat(depth) });
    expect(await readJson(body(30))).toHaveLength(1);
    expect(await readJson(body(20_000))).toBeNull();
    expect(await readJson(own({ method: 'POST', body: '{"a":' }))).toBeNull();
  });

  test('too large is said with the size that is taken; the body is read to its end', async () => {
    const handler = guarded(async (r) => Response.json({ message: String((await readBody(r, 1000)).length) }));
    const request = own({ method: 'POST', body: new Uint8Array(5000) });
    expect(await answer(handler, request)).toEqual([413, 'This is larger than 1000 bytes, the most that is taken.']);
    expect([sizeInWords(999), sizeInWords(65536), sizeInWords(3 << 20)]).toEqual(['999 bytes', '64 KiB', '3 MiB']);
    await expect(readBody(own({ method: 'POST', body: new Uint8Array(9) }), 8)).rejects.toThrow(TooLarge);
  });

  test.each([
    [Object.assign(new Error('connect ECONNREFUSED'), { code: 'ECONNREFUSED' }), 503],
    [Object.assign(new Error('terminating connection'), { code: '57P01' }), 503],
    [Object.assign(new Error('Failed query'), { cause: Object.assign(new Error('no space'), { code: '53100' }) }), 503],
    [new Error('Connection terminated unexpectedly'), 503],
    [Object.assign(new Error('duplicate key'), { code: '23505' }), 500],
    [new TypeError('x is not a function'), 500],
    [new RangeError('Maximum call stack size exceeded'), 400],
    [Object.assign(new Error('aborted'), { code: 'ECONNABORTED' }), 400],
    [new UnreadablePiece('The document is damaged at its root: x.'), 422],
  ])('a failure is answered as what it is: %s', (error, status) => {
    const fault = faultOf(error);
    expect(fault.status).toBe(status);
    expect(fault.message).toMatch(/^[A-Z].+\.$/);
  });
});

test('two at once; others wait in order, and a failure passes its turn on', async () => {
  const inTurn = turns(2);
  const running: number[] = [];
  let most = 0;
  const order: number[] = [];
  await Promise.allSettled(
    [1, 2, 3, 4, 5, 6].map((n) =>
      inTurn(async () => {
        running.push(n);
        order.push(n);
        most = Math.max(most, running.length);
        await new Promise((resolve) => setTimeout(resolve, 5));
        running.splice(running.indexOf(n), 1);
        if (n % 2) throw new Error('odd');
      }),
    ),
  );
  expect([most, order]).toEqual([2, [1, 2, 3, 4, 5, 6]]);
});
