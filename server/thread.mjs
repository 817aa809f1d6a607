// A thread begins without TypeScript: it goes on in the bundle where there is one, else reads ours as it stands.
const bundle = process.env.STONE_PORCH_BUNDLE;
if (bundle) await import(`${bundle}/worker.mjs`);
else {
  const { register } = await import('tsx/esm/api');
  register();
  await import('./worker.ts');
}
