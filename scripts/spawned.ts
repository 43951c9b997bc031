import { spawn, type StdioOptions } from 'node:child_process';
import { text } from 'node:stream/consumers';

/** Runs a program to its end; whether it ended well. */
export const spawned = (command: string, args: readonly string[], stdio: StdioOptions): Promise<boolean> =>
  new Promise((resolve, reject) =>
    spawn(command, args, { stdio })
      .on('error', reject)
      .on('exit', (code) => resolve(code === 0))
  );

/** The same beside others: what it says is kept together, standard output first. */
export async function spawnedBeside(
  command: string,
  args: readonly string[]
): Promise<{ readonly passed: boolean; readonly said: string }> {
  const running = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'] });
  const ended = new Promise<boolean>((resolve, reject) =>
    running.on('error', reject).on('close', (code) => resolve(code === 0))
  );
  const [out, error, passed] = await Promise.all([text(running.stdout), text(running.stderr), ended]);
  return { passed, said: out + error };
}
