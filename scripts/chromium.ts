import { existsSync } from 'node:fs';
import { spawned } from './spawned';

const CHROMIUM = process.env['KROMBA_CHROMIUM'] ?? '/usr/bin/chromium';

/** How the browser is started for tests and benches: as root, without a GPU, without asking anything of the network. */
export const chromiumLaunch = {
  executablePath: CHROMIUM,
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync'
  ]
};

const COMMANDS = ['apt-get update', 'apt-get install -y --no-install-recommends chromium'];

/** Makes sure that Debian's Chromium is there. @throws Error naming the command to run where it can't be put there */
export async function ensureChromium(): Promise<void> {
  if (existsSync(CHROMIUM)) return;
  process.stderr.write('Installing Chromium from Debian’s packages …\n');
  for (const command of COMMANDS) {
    if (!(await spawned('sh', ['-c', command], ['ignore', 2, 2]))) {
      throw new Error(
        `Chromium is missing and could not be installed. Run “sudo ${COMMANDS.join(' && sudo ')}”, or set KROMBA_CHROMIUM to one.`
      );
    }
  }
}
