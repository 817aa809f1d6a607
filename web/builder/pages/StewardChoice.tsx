import { Link } from 'react-router';
import { stewardName } from '../../../core/definition/steward-words';
import type { PortalDefinition } from '../../../core/definition/definition';
import type { Steward } from '../../../core/definition/steward';
import { useBench } from '../bench/bench-context';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';

/** Those who do it, to choose one by. */
export const stewardsWho = (draft: PortalDefinition, does: Steward['does']): { id: string; label: string }[] =>
  (draft.stewards ?? [])
    .filter((steward) => steward.does === does)
    .map((steward) => ({ id: steward.id, label: stewardName(draft, steward) }));

/** Which steward a section is for. */
export function StewardChoice({
  does,
  value,
  onPick,
}: {
  does: Steward['does'];
  value: string;
  onPick: (id: string) => void;
}) {
  const { draft, to } = useBench();
  const found = stewardsWho(draft, does);
  return (
    <Field
      label="For"
      hint={
        <>
          What they may do is set under{' '}
          <Link className="underline" to={to('people', '~stewards')}>
            People, Stewards
          </Link>
          .
        </>
      }
      fault={found.some(({ id }) => id === value) ? null : 'This steward is gone: nobody gets anything here.'}
    >
      {(ids) => (
        <Select className="max-w-120" {...ids} value={value} onPick={onPick}>
          {found.map(({ id, label }) => (
            <option key={id} value={id}>
              {label}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
}
