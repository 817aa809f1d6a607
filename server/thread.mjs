// A thread begins without TypeScript: this lets it read ours, then goes on there.
import { register } from 'tsx/esm/api';

register();
await import('./worker.ts');
