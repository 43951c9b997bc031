import { request, type IncomingMessage, type Server } from 'node:http';
import { connect, type AddressInfo } from 'node:net';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { guarded } from './listen';

let server: Server;
let port = 0;
beforeEach(async () => {
  server = guarded((_, response) => response.end('here'), { headWithin: 300, allWithin: 600 });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  ({ port } = server.address() as AddressInfo);
});
afterEach(() => {
  server.closeAllConnections();
  server.close();
});

const asked = (host: string): Promise<IncomingMessage> =>
  new Promise((resolve, reject) =>
    request({ port, host: '127.0.0.1', headers: { host } }, (response) => {
      response.resume();
      resolve(response);
    })
      .on('error', reject)
      .end()
  );

it.each(['127.0.0.1', 'localhost', 'LOCALHOST', '[::1]'])('answers to %s, guarded', async (name) => {
  const { statusCode, headers } = await asked(`${name}:${port}`);
  expect(statusCode).toBe(200);
  expect(headers).toMatchObject({
    'cross-origin-opener-policy': 'same-origin',
    'cross-origin-embedder-policy': 'require-corp',
    'x-content-type-options': 'nosniff',
    'x-frame-options': 'DENY',
    'referrer-policy': 'no-referrer'
  });
});

it.each(['kiln.example', '127.0.0.1.kiln.example', 'localhost.kiln.example:80'])(
  'refuses the name “%s”',
  async (name) => expect((await asked(name)).statusCode).toBe(421)
);

it.each([
  ['its head', 'GET / HTTP/1.1\r\nHost: localhost\r\n'],
  ['its body', 'POST / HTTP/1.1\r\nHost: localhost\r\nContent-Length: 100\r\n\r\nslow']
])(
  'closes who is slow to send %s',
  async (_, start) => {
    const socket = connect(port, '127.0.0.1', () => socket.write(start));
    let answer = '';
    socket.on('data', (data) => (answer += data.toString()));
    await new Promise((resolve) => socket.on('close', resolve));
    // A body that nobody reads is answered before it is there, and the line is closed behind it.
    expect(answer).toMatch(/408|200/);
  },
  10_000
);
