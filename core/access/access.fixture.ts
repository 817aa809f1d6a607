import { wellsCatalogue } from '../../test/wells';
import type { Grant } from '../definition/definition';

export const wells = wellsCatalogue.tables[1]!;

export const see = (
  where: Grant['see'] extends infer S ? (S extends { where: infer W } ? W : never) : never,
  columns: string[],
): Grant => ({ see: { where, columns } });
