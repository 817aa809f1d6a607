import type { PortalDefinition } from '../../core/definition/definition';
import type { EditProps } from '../edit';
import { StewardChoice, stewardsWho } from '../../web/builder/pages/StewardChoice';
import type { PeopleSection } from './spec';

export const word = 'People';
export const says = 'those whom a steward looks after';
export const called = ({ steward }: PeopleSection, draft: PortalDefinition) =>
  stewardsWho(draft, 'look after people').find(({ id }) => id === steward)?.label ?? word;
export const ofTable = false;
export const things = (draft: PortalDefinition) => stewardsWho(draft, 'look after people');
export const empty = (_table: null, _visible: string[], thing: string): Omit<PeopleSection, 'id'> => ({
  kind: 'people',
  steward: thing,
});

/** Whose section it is. */
export default function PeopleEdit({ page, section, onChange }: EditProps<'people'>) {
  return (
    <StewardChoice
      does="look after people"
      value={section.steward}
      onPick={(id) =>
        void onChange(`Choose who gets people on ${page.title}`, (next) => {
          next.steward = id;
        })
      }
    />
  );
}
