import type { Steward } from '../../../core/definition/steward';
import { rolesGiven } from '../../../core/access/roster-roles';
import { freeId } from '../../../core/definition/free-id';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { Rule, RuleList, useOpenRule } from '../access/RuleList';
import { useBench } from '../bench/bench-context';
import { useNames, useNaming } from '../bench/names';
import { StageHead } from '../bench/StageFrame';
import { handedOver } from './hand-over-tables';
import { stewardSentence } from './steward-sentence';
import { HandsOverFields } from './HandsOverFields';
import { KeepsTableFields } from './KeepsTableFields';
import { LooksAfterFields } from './LooksAfterFields';
import { StewardPage } from './StewardPage';

/** Slices of the administration that roles have, each as a sentence. */
export function Stewards() {
  const { draft, catalogue, edit } = useBench();
  const names = useNames();
  const naming = useNaming();
  const { setOpen } = useOpenRule();
  const stewards = draft.stewards ?? [];
  const role = draft.roles.find((each) => (each.for ?? 'members') === 'members');
  const [roster] = draft.rosters;
  const add = (words: string, begin: (id: string) => Steward) => {
    const id = freeId(words, stewards);
    void edit('Add a steward', (next) => {
      (next.stewards ??= []).push(begin(id));
    }).then((problem) => problem === null && setOpen(id));
  };
  const remove = (id: string) =>
    void edit('Remove a steward', (next) => {
      const rest = next.stewards!.filter((each) => each.id !== id);
      if (rest.length > 0) next.stewards = rest;
      else delete next.stewards;
    });
  const kept = catalogue.tables.find(({ name }) => role && draft.access[name]?.[role.id]?.see) ?? catalogue.tables[0];
  const handing = roster && handedOver(catalogue, roster.table);
  return (
    <>
      <StageHead title="Stewards" />
      <div className="grid content-start gap-4 p-4">
        <p className="max-w-180 text-soft">
          Members who do a part of the administration: look after people of a slice, keep a table up to date by files,
          or hand records over when somebody leaves. Each is a right of its role, beside what Access grants it; a page
          with its section gives them the place to do it.
        </p>
        {(!role || !roster) && (
          <Notice kind="say">Make a role for members and a roster first: a steward is a member with a role.</Notice>
        )}
        {stewards.length > 0 && (
          <RuleList>
            {stewards.map((steward) => (
              <Rule
                key={steward.id}
                id={steward.id}
                kind="Steward"
                sentence={stewardSentence(steward, names, naming)}
                loses={`${names.role(steward.role)} can do this no longer, and its section on pages is empty.`}
                onRemove={() => remove(steward.id)}
              >
                <Fields steward={steward} />
                <StewardPage steward={steward} />
              </Rule>
            ))}
          </RuleList>
        )}
        {role && roster && (
          <div className="flex flex-wrap gap-2">
            <Button
              onClick={() =>
                add('people', (id) => ({
                  id,
                  role: role.id,
                  does: 'look after people',
                  roster: roster.table,
                  roles: rolesGiven(roster).slice(0, 1),
                  sees: [],
                  may: ['invite'],
                }))
              }
            >
              + looks after people
            </Button>
            {kept && (
              <Button
                onClick={() => add('table', (id) => ({ id, role: role.id, does: 'keep a table', table: kept.name }))}
              >
                + keeps a table
              </Button>
            )}
            {handing?.[0] && (
              <Button
                onClick={() =>
                  add('hand-over', (id) => ({
                    id,
                    role: role.id,
                    does: 'hand over',
                    roster: roster.table,
                    tables: [handing[0]!],
                  }))
                }
              >
                + hands over
              </Button>
            )}
          </div>
        )}
      </div>
    </>
  );
}

function Fields({ steward }: { steward: Steward }) {
  switch (steward.does) {
    case 'look after people':
      return <LooksAfterFields steward={steward} />;
    case 'keep a table':
      return <KeepsTableFields steward={steward} />;
    case 'hand over':
      return <HandsOverFields steward={steward} />;
  }
}
