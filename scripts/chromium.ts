import { existsSync } from 'node:fs';
import { spawned } from './spawned';

type Build = 'chromium-headless-shell' | 'chromium';

/** Debian's two builds. The one without windows of its own starts a page in three quarters of the time, and can't measure memory. */
const [FOR_TESTS, FOR_BENCHES] = ['chromium-headless-shell', 'chromium'] as const;

const placeOf = (build: Build): string => `/usr/bin/${build}`;

/** The browser that is to be started: where the quicker one is not to be had, the other. */
function executable(build: Build): string {
  const own = process.env['KROMBA_CHROMIUM'];
  if (own) return own;
  return placeOf(build === FOR_TESTS && !existsSync(placeOf(FOR_TESTS)) ? FOR_BENCHES : build);
}

/** How the browser is started: as root, without a GPU, without asking anything of the network. */
const launch = (build: Build): { executablePath: string; args: string[] } => ({
  executablePath: executable(build),
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync'
  ]
});
export const testLaunch = (): ReturnType<typeof launch> => launch(FOR_TESTS);
export const benchLaunch = (): ReturnType<typeof launch> => launch(FOR_BENCHES);

const installing = (build: Build): string[] => [
  'apt-get update',
  `apt-get install -y --no-install-recommends ${build}`
];

/** @returns whether it is there now */
async function install(build: Build): Promise<boolean> {
  if (existsSync(process.env['KROMBA_CHROMIUM'] ?? placeOf(build))) return true;
  process.stderr.write('Installing Chromium from Debian’s packages …\n');
  for (const command of installing(build)) {
    if (!(await spawned('sh', ['-c', command], ['ignore', 2, 2]))) return false;
  }
  return true;
}

/** Makes sure that Debian's Chromium is there. @throws Error naming the command to run where it can't be put there */
async function ensure(builds: readonly Build[]): Promise<void> {
  for (const build of builds) if (await install(build)) return;
  const commands = installing(builds.at(-1)!).join(' && sudo ');
  throw new Error(
    `Chromium is missing and could not be installed. Run “sudo ${commands}”, or set KROMBA_CHROMIUM to one.`
  );
}
export const ensureForTests = (): Promise<void> => ensure([FOR_TESTS, FOR_BENCHES]);
export const ensureForBenches = (): Promise<void> => ensure([FOR_BENCHES]);
