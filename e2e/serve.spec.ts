import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { createInterface } from 'node:readline';
import { expect, test } from '@playwright/test';

const LOOK = JSON.stringify({
  ...{ kromba: 1, kind: 'look', name: 'Swap' },
  steps: [{ id: 's1', op: 'mix', params: { rows: { r: { b: 1 }, b: { r: 1 } } } }]
});
const PICTURES = ['woven-cloth.jpg', 'old-print.jpg'].map((name) => `demo/samples/${name}`);

/** Begins the server by its command. */
async function begun(env: Record<string, string>): Promise<{ running: ChildProcess; address: string }> {
  const running = spawn(process.execPath, ['scripts/run.mjs', 'serve'], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'inherit']
  });
  for await (const line of createInterface(running.stdout!)) {
    const [, address] = /Kromba is at (http:\S+)/.exec(line) ?? [];
    if (address) return { running, address };
  }
  throw new Error('It ended before it was there.');
}

const ended = (running: ChildProcess): Promise<number | null> =>
  new Promise((resolve) => running.on('exit', (code) => resolve(code)));

/** Where servers keep what is sent. */
const folders = (): string[] => readdirSync(tmpdir()).filter((name) => name.startsWith('kromba-server-'));

const form = (fields: Record<string, string>, files: readonly string[]): FormData => {
  const made = new FormData();
  for (const [name, value] of Object.entries(fields)) made.append(name, value);
  for (const file of files)
    made.append('image', new Blob([new Uint8Array(readFileSync(file))]), file.split('/').at(-1)!);
  return made;
};

test('the server by its command: its pages, the bytes of the command, and its end in order', async ({
  page
}, info) => {
  test.setTimeout(200_000);
  const before = folders();
  const { running, address } = await begun({ PORT: '0' });
  const own = folders().filter((name) => !before.includes(name));
  expect(own).toHaveLength(1);
  const over = ended(running);
  try {
    await page.goto(address);
    await expect(page.getByRole('heading', { name: 'Kromba' }).first()).toBeVisible();
    const post = (body: FormData): Promise<Response> =>
      fetch(`${address}/api/render`, { method: 'POST', body });
    const [cloth] = PICTURES;
    const answer = await post(form({ look: LOOK, format: 'tiff' }, [cloth]));
    expect(answer.status).toBe(200);
    const served = Buffer.from(await answer.arrayBuffer());
    const look = info.outputPath('look.json');
    writeFileSync(look, LOOK);
    const out = info.outputPath('cloth.tif');
    execFileSync('npm', ['run', '-s', 'render', '--', '--look', look, cloth, '--out', out]);
    expect(served.equals(readFileSync(out))).toBe(true);

    // It answers while it computes, and what is under way when it is asked to end is answered.
    const asked = post(form({ look: LOOK, format: 'avif', depth: '16' }, PICTURES));
    await expect
      .poll(
        async () => ((await (await fetch(`${address}/api/health`)).json()) as { working: number }).working
      )
      .toBeGreaterThan(0);
    running.kill('SIGTERM');
    const zip = await asked;
    expect([zip.status, zip.headers.get('content-type')]).toEqual([200, 'application/zip']);
    expect((await zip.arrayBuffer()).byteLength).toBeGreaterThan(10_000);
    expect(await over).toBe(0);
    expect(folders().filter((name) => own.includes(name))).toEqual([]);
    await expect(fetch(`${address}/api/health`)).rejects.toThrow();
  } finally {
    running.kill('SIGKILL');
  }
});

test('the server says what is wrong with how it is begun', () => {
  const said = (env: Record<string, string>): string => {
    try {
      execFileSync(process.execPath, ['scripts/run.mjs', 'serve'], {
        env: { ...process.env, ...env },
        stdio: 'pipe'
      });
      return '';
    } catch (error) {
      return String((error as { stderr: Buffer }).stderr);
    }
  };
  expect(said({ HOST: '0.0.0.0' })).toContain('Set KROMBA_TOKEN to a secret that they have to send');
  expect(said({ KROMBA_IMAGES: 'many' })).toBe('KROMBA_IMAGES=many must be a whole number.\n');
  expect(said({ PORT: '4291' })).toBe('Port 4291 is taken or not allowed: set PORT to another.\n');
});
