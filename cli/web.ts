/** The web server as a process of its own: node --import tsx cli/web.ts start|dev PORT. Started by serve.ts. */
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import next from 'next';
import { atTheDoor, closeWhenStalled, PATIENCE } from '../src/server/door';
import { watchPostgres } from './postgres';
import { runFile, type RunRecord } from './serve';

const [mode, portText] = process.argv.slice(2);
const port = Number(portText);
const dev = mode === 'dev';

const app = next({ dev, dir: process.cwd(), hostname: '127.0.0.1', port });
await app.prepare();
const handle = app.getRequestHandler();
const upgrade = app.getUpgradeHandler();

const server = createServer({ headersTimeout: PATIENCE.headersMs, requestTimeout: PATIENCE.requestMs }, (request, response) => {
  closeWhenStalled(request);
  if (atTheDoor(request, response, dev)) return;
  void handle(request, response);
});
server.on('upgrade', (request, socket, head) => void upgrade(request, socket, head));
server.keepAliveTimeout = 10_000;

// The database is watched as long as the application lives, whoever started it.
const home = process.env.BRINDLE_WATCH_POSTGRES;
const unwatch = home ? watchPostgres(home, Number(process.env.BRINDLE_POSTGRES_PORT)) : () => undefined;

const record: RunRecord = { pid: process.pid, startedBy: process.ppid, port };
const stop = () => {
  unwatch();
  rmSync(runFile(port), { force: true });
  server.close();
  server.closeIdleConnections();
  // What is being answered may end; nobody waits longer for it.
  setTimeout(() => process.exit(0), 1500).unref();
  server.on('close', () => process.exit(0));
};
process.on('SIGTERM', stop);
process.on('SIGINT', stop);

server.listen(port, '127.0.0.1', () => {
  mkdirSync('.brindle', { recursive: true });
  writeFileSync(runFile(port), JSON.stringify(record));
  // The first page that somebody asks for is not the one that loads what pages are made with.
  if (!dev) for (const path of ['/', '/pieces/none']) void fetch(`http://127.0.0.1:${port}${path}`).catch(() => undefined);
});
