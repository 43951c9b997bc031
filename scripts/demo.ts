import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { builtCommands } from './commands.mjs';
import { command } from './command';
import { ensureSamples } from './samples';

await command(async () => {
  await ensureSamples();
  // Bundled, as its threads are: with TypeScript compiled anew each would take seconds to start.
  const built = pathToFileURL(join(builtCommands(process.cwd()), 'serving.js')).href;
  const { serveUntilAsked } = (await import(built)) as typeof import('./serving');
  await serveUntilAsked({ exactly: false });
});
