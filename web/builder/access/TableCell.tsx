import { describeCondition, type Naming } from '../../../core/condition/describe';
import { tellingPart } from '../../../core/condition/telling';
import type { Grant } from '../../../core/definition/definition';

export function TableCell({ grant, naming }: { grant: Grant | undefined; naming: Naming }) {
  const words = grantWords(grant);
  return (
    <span className="min-w-0 leading-tight">
      <span className={`block truncate ${words === 'nothing' ? 'text-soft' : 'font-semibold'}`}>{words}</span>
      {grant?.see && (
        <span
          className={
            'block truncate text-xs ' + (grant.see.where === 'every row' ? 'font-semibold text-iron' : 'text-soft')
          }
        >
          {grant.see.where === 'every row' ? 'every row' : tellingPart(grant.see.where, naming)}
        </span>
      )}
    </span>
  );
}

/** What a grant lets be done, in words. */
export function grantWords(grant: Grant | undefined): string {
  const does = [
    grant?.see && 'see',
    grant?.create && 'create',
    grant?.edit && grant.edit.columns.length > 0 && 'edit',
    grant?.delete && 'delete',
    grant?.export && 'export',
    grant?.comments && 'say',
    grant?.files && 'files',
  ].filter(Boolean);
  return does.join(' · ') || 'nothing';
}

export function sentenceOf(grant: Grant | undefined, naming: Naming): string {
  return !grant?.see
    ? 'no row'
    : grant.see.where === 'every row'
      ? 'every row'
      : describeCondition(grant.see.where, naming);
}
