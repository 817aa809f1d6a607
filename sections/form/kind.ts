export { spec } from './spec';

export const serve = () => import('./serve');
