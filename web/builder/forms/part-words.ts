import { fromOf, type Form, type FormFact, type FormPart } from '../../../core/definition/form';
import { printPath } from '../../../core/definition/path';
import type { useNames } from '../bench/names';

type Names = ReturnType<typeof useNames>;

/** What something to read is, in words. */
export function factWords(names: Names, form: Form, { of, path }: Pick<FormFact, 'of' | 'path'>): string {
  if (of === 'record') return names.path(fromOf(form) ?? form.table, printPath(path));
  return `${names.column(path[0]!, path[1]!)}, of whoever fills it in`;
}

/** What a part of a form is called. */
export function partWords(names: Names, form: Form, part: FormPart): string {
  switch (part.kind) {
    case 'words':
      return 'Words';
    case 'input':
      return part.label ?? names.column(form.table, part.column);
    case 'fact':
      return part.label ?? factWords(names, form, part);
    case 'lines':
      return part.label ?? names.table(part.table);
  }
}
