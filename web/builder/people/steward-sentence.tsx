import type { ReactNode } from 'react';
import { describeCondition, type Naming } from '../../../core/condition/describe';
import type { Condition } from '../../../core/condition/tree';
import type { Steward, StewardAct } from '../../../core/definition/steward';
import { listed } from '../../../core/text/listed';
import type { Names } from '../bench/names';

export const actWords: Record<StewardAct, string> = {
  suspend: 'suspend and let in again',
  invite: 'invite and remind',
  'end sessions': 'end sessions',
  'send password links': 'send links to a new password',
};

/** What a steward may do, as a sentence. */
export function stewardSentence(steward: Steward, names: Names, naming: (table: string) => Naming): ReactNode {
  const where = (table: string, condition: Condition | undefined) =>
    condition ? ` where ${describeCondition(condition, naming(table))}` : '';
  const handed = (each: { table: string; where?: Condition }) =>
    `${names.tableInText(each.table)}${where(each.table, each.where)}`;
  const who = <strong>{names.role(steward.role)}</strong>;
  switch (steward.does) {
    case 'look after people': {
      const { roster, roles, adds, changes, may } = steward;
      const does = [adds && 'add', changes && 'change', ...may.map((act) => actWords[act])].filter((each) => !!each);
      return (
        <>
          {who} looks after {listed(roles.map(names.role))} of {names.tableInText(roster)}
          {where(roster, steward.where)}
          {does.length > 0 ? `: may ${listed(does as string[])}` : ': may see them'}
        </>
      );
    }
    case 'keep a table':
      return (
        <>
          {who} keeps {names.tableInText(steward.table)}: may bring files into it, as far as they may add and change
          there, and take it out
        </>
      );
    case 'hand over':
      return (
        <>
          {who} hands over {listed(steward.tables.map(handed))} from one of {names.tableInText(steward.roster)} to
          another
          {where(steward.roster, steward.where)}
        </>
      );
  }
}
