import { command } from './command';
import { serveUntilAsked } from './serving';

// Where a port is asked for, others look for it there.
await command(() => serveUntilAsked({ exactly: process.env['PORT'] !== undefined }));
