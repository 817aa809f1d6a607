// A thread beside the server. The loader of TypeScript is not taken over from it.
import { register } from 'tsx/esm/api';

register();
const { default: doTask } = await import('./tasks.ts');
export default doTask;
