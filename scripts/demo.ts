import { buildIfChanged } from './build';
import { command } from './command';
import { ensureSamples } from './samples';
import { serve } from './serve';

const USUAL_PORT = 4173;

await command(async () => {
  const port = Number(process.env['PORT'] ?? USUAL_PORT);
  if (!Number.isInteger(port) || port < 0 || port > 65535) {
    throw new Error(`PORT=${process.env['PORT']} is no port; use a number from 0 to 65535.`);
  }
  await ensureSamples();
  buildIfChanged();
  const { address } = await serve(port);
  process.stdout.write(`Kromba is at ${address}\n`);
});
