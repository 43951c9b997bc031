import { createServer, type Server } from 'node:http';
import { pathToFileURL } from 'node:url';
import { isolationHeaders } from './isolation';

const HOST = '127.0.0.1';

/**
 * Serves the built application with the isolation headers on every response: the adapter's own server leaves
 * static files without them, and then no worker starts.
 * @param wanted a port; the next free one is taken where it is in use
 */
export async function serve(wanted: number): Promise<{ server: Server; address: string }> {
  const { handler } = (await import(pathToFileURL('build/handler.js').href)) as {
    handler: (request: unknown, response: unknown, next: () => void) => void;
  };
  const server = createServer((request, response) => {
    for (const [name, value] of Object.entries(isolationHeaders)) response.setHeader(name, value);
    handler(request, response, () => {
      response.statusCode = 404;
      response.end('Not found');
    });
  });
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
