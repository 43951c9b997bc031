import { resolve } from 'node:path';
import { overHttp, sharedFolder, type Files } from './files';
import { limitsIn, queueIn } from './limits';
import { startWorker } from './queue';

function filesIn(env: Readonly<Record<string, string | undefined>>): Files {
  const { KROMBA_STORE: store, KROMBA_SERVER: server, KROMBA_TOKEN: token } = env;
  if (store) return sharedFolder(resolve(store));
  if (!server)
    throw new Error(
      'Say where the pictures are: KROMBA_STORE, the folder that the server has them in as well, or KROMBA_SERVER, its address.'
    );
  if (!URL.canParse(server))
    throw new Error(`KROMBA_SERVER=${server} is no address, such as http://kiln:4173.`);
  return overHttp(server, token || undefined);
}

/** Works for servers on any machine, until it is closed. @throws Error in words where it can't */
export function workFor(
  env: Readonly<Record<string, string | undefined>>
): Promise<{ close(): Promise<void> }> {
  const queue = queueIn(env);
  if (!queue)
    throw new Error(
      'Say where the work is: KROMBA_QUEUE, the address of the Redis server, such as redis://127.0.0.1:6379.'
    );
  return startWorker(queue, filesIn(env), limitsIn(env));
}
