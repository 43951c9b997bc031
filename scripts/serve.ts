import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { pathToFileURL } from 'node:url';
import { guardHeaders, isolationHeaders } from './isolation';

const HOST = '127.0.0.1';
/** Names by which a browser on this machine asks; another one is a page elsewhere that has its name lead here. */
const OWN_NAMES = ['127.0.0.1', 'localhost', '[::1]'];
/** A request's head and all of it must be there within so many ms; looked after every so often. */
const HEAD_WITHIN = 10_000;
const ALL_WITHIN = 30_000;
const LOOK_AFTER = 1000;

type Handler = (request: IncomingMessage, response: ServerResponse, next: () => void) => void;

/** A server of this machine alone: it guards its responses, refuses foreign names, and closes who is slow to ask. */
export function guarded(handler: Handler, { headWithin = HEAD_WITHIN, allWithin = ALL_WITHIN } = {}): Server {
  const timing = {
    headersTimeout: headWithin,
    requestTimeout: allWithin,
    connectionsCheckingInterval: Math.min(LOOK_AFTER, headWithin)
  };
  return createServer(timing, (request, response) => {
    for (const [name, value] of Object.entries({ ...isolationHeaders, ...guardHeaders }))
      response.setHeader(name, value);
    const name = (request.headers.host ?? '').replace(/:\d+$/, '').toLowerCase();
    if (!OWN_NAMES.includes(name)) {
      response.statusCode = 421;
      response.end(`Kromba answers on this machine alone, under ${OWN_NAMES.join(', ')}.`);
      return;
    }
    handler(request, response, () => {
      response.statusCode = 404;
      response.end('Not found');
    });
  });
}

/**
 * Serves the built application with the isolation headers on every response: the adapter's own server leaves
 * static files without them, and then no worker starts.
 * @param wanted a port; the next free one is taken where it is in use
 */
export async function serve(wanted: number): Promise<{ server: Server; address: string }> {
  const { handler } = (await import(pathToFileURL('build/handler.js').href)) as { handler: Handler };
  const server = guarded(handler);
  const listen = (port: number): Promise<number> =>
    new Promise((resolve, reject) => {
      server.once('error', reject);
      server.listen(port, HOST, () => resolve((server.address() as { port: number }).port));
    });
  const port = await listen(wanted).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'EADDRINUSE' || error.code === 'EACCES') return listen(0);
    throw error;
  });
  return { server, address: `http://${HOST}:${port}` };
}
