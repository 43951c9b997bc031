import { serve } from '../src/server/listen';
import { buildIfChanged } from './build';
import { endWhenAsked } from './end-when-asked';
import { portIn } from './port';

/** Builds what is not built, serves it until it is asked to end, and then ends in order. @throws Error, in words */
export async function serveUntilAsked({ exactly }: { readonly exactly: boolean }): Promise<void> {
  const port = portIn(process.env);
  buildIfChanged();
  const { address, end } = await serve({ port, exactly, env: process.env });
  process.stdout.write(`Kromba is at ${address}\n`);
  endWhenAsked('what is under way is still answered', end);
}
