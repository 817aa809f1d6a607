import { root } from './install.mjs';
import { builtWeb } from './web';

await builtWeb(root);
