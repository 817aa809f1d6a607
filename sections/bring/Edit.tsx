import type { PortalDefinition } from '../../core/definition/definition';
import { StewardChoice, stewardsWho } from '../../web/builder/pages/StewardChoice';
import type { EditProps } from '../edit';
import type { BringSection } from './spec';

export const word = 'Bring a file';
export const says = 'a way to bring records as a file, for a steward';
export const called = ({ steward }: BringSection, draft: PortalDefinition) =>
  stewardsWho(draft, 'keep a table').find(({ id }) => id === steward)?.label ?? word;
export const ofTable = false;
export const things = (draft: PortalDefinition) => stewardsWho(draft, 'keep a table');
export const empty = (_table: null, _visible: string[], thing: string): Omit<BringSection, 'id'> => ({
  kind: 'bring',
  steward: thing,
});

/** Whose section it is. */
export default function BringEdit({ page, section, onChange }: EditProps<'bring'>) {
  return (
    <StewardChoice
      does="keep a table"
      value={section.steward}
      onPick={(id) =>
        void onChange(`Choose who brings files on ${page.title}`, (next) => {
          next.steward = id;
        })
      }
    />
  );
}
