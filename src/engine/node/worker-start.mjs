// Threads do not take over their parent's loader, so TypeScript is set up here first.
import { register } from 'tsx/esm/api';

register();
await import('./worker.ts');
