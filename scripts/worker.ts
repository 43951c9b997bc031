import { workFor } from '../src/server/work-for';
import { command } from './command';
import { endWhenAsked } from './end-when-asked';

await command(async () => {
  const { close } = await workFor(process.env);
  process.stdout.write('Kromba takes work from the queue\n');
  endWhenAsked('what is under way is still done', close);
});
