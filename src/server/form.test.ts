import { mkdtemp, rm } from 'node:fs/promises';
import { createServer, type IncomingMessage } from 'node:http';
import { connect, type AddressInfo, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { expect, it } from 'vitest';
import { readForm, type Form } from './form';
import { limitsIn } from './limits';

const BODY = '--edge\r\nContent-Disposition: form-data; name="look"\r\n\r\nmix\r\n--edge--\r\n';
const HEAD = `POST / HTTP/1.1\r\nHost: localhost\r\nContent-Type: multipart/form-data; boundary=edge\r\nContent-Length: ${BODY.length}\r\n\r\n`;

/** What becomes of a form where `before` happens between its coming in and its being read. */
async function readAfter(
  sent: string,
  before: (request: IncomingMessage, socket: Socket) => Promise<void>
): Promise<{ form: Form | Error; complete: boolean }> {
  const folder = await mkdtemp(join(tmpdir(), 'kromba-form-'));
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  try {
    const socket = connect((server.address() as AddressInfo).port, '127.0.0.1');
    socket.on('error', () => undefined);
    const coming = new Promise<IncomingMessage>((resolve) => server.once('request', resolve));
    socket.write(sent);
    const request = await coming;
    request.on('error', () => undefined);
    await before(request, socket);
    const { complete } = request;
    const shape = { texts: ['look'], files: {} };
    const form = await readForm(request, folder, shape, limitsIn({})).catch((error: Error) => error);
    socket.destroy();
    return { form, complete };
  } finally {
    server.closeAllConnections();
    server.close();
    await rm(folder, { recursive: true });
  }
}

const until = async (is: () => boolean): Promise<void> => {
  while (!is()) await wait(5);
};
const gone = async (request: IncomingMessage, socket: Socket): Promise<void> => {
  socket.destroy();
  await until(() => request.destroyed);
};

it('is read where it came in before anybody looked at it', async () => {
  const { form, complete } = await readAfter(HEAD + BODY, (request) => until(() => request.complete));
  expect([complete, (form as Form).texts.get('look')]).toEqual([true, 'mix']);
});

it.each([
  ['all of it had come in', BODY, true],
  ['a part of it had come in', BODY.slice(0, 30), false]
])('fails at once where who sent it was gone before it was read, when %s', async (_, body, complete) => {
  const found = await readAfter(HEAD + body, async (request, socket) => {
    await until(() => request.complete === complete);
    await gone(request, socket);
  });
  expect(found.complete).toBe(complete);
  // And not as what was silent for too long.
  expect(found.form).toMatchObject({ message: 'The request broke off.' });
});
