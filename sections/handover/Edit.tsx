import type { PortalDefinition } from '../../core/definition/definition';
import type { EditProps } from '../edit';
import { StewardChoice, stewardsWho } from '../../web/builder/pages/StewardChoice';
import type { HandOverSection } from './spec';

export const word = 'Hand over';
export const says = 'records that go from one person to another, for a steward';
export const called = ({ steward }: HandOverSection, draft: PortalDefinition) =>
  stewardsWho(draft, 'hand over').find(({ id }) => id === steward)?.label ?? word;
export const ofTable = false;
export const things = (draft: PortalDefinition) => stewardsWho(draft, 'hand over');
export const empty = (_table: null, _visible: string[], thing: string): Omit<HandOverSection, 'id'> => ({
  kind: 'handover',
  steward: thing,
});

/** Whose section it is. */
export default function HandOverEdit({ page, section, onChange }: EditProps<'handover'>) {
  return (
    <StewardChoice
      does="hand over"
      value={section.steward}
      onPick={(id) =>
        void onChange(`Choose who hands over on ${page.title}`, (next) => {
          next.steward = id;
        })
      }
    />
  );
}
