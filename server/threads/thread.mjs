// A thread beside the server. The loader of TypeScript is not taken over from it; a bundle needs none.
const bundle = process.env.STONE_PORCH_BUNDLE;
if (!bundle) (await import('tsx/esm/api')).register();
const { default: doTask } = await import(bundle ? `${bundle}/tasks.mjs` : './tasks.ts');
export default doTask;
