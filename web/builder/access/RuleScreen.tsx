import { lazy, Suspense, type ComponentType } from 'react';
import type { PortalDefinition } from '../../../core/definition/definition';
import { Skeleton } from '../../ui/Notice';
import { StageHead } from '../bench/StageFrame';

interface Screen {
  title: string;
  /** How many there are; nothing where it is no list. */
  count: (draft: PortalDefinition) => number | undefined;
  says: string;
  Body: ComponentType;
}

/** The rules that are not one role's on one table, and what can be looked up. */
export const ruleScreens = {
  masks: {
    title: 'Masks',
    count: (draft) => draft.masks.length,
    says:
      'A mask hides a column, or all columns of a data class, wholly or in part. Where several hold for a role, ' +
      'the one that shows least decides.',
    Body: lazy(() => import('./Masks').then(({ Masks: Body }) => ({ default: Body }))),
  },
  fences: {
    title: 'Fences',
    count: (draft) => draft.fences?.length ?? 0,
    says: 'A fence narrows every role on a table, whatever its own row filter says, but for the roles that are exempt.',
    Body: lazy(() => import('./Fences').then(({ Fences: Body }) => ({ default: Body }))),
  },
  filters: {
    title: 'Filters',
    count: (draft) =>
      Object.values(draft.tables).reduce((sum, { filters }) => sum + Object.keys(filters ?? {}).length, 0),
    says:
      'A condition kept under a name with its table. Row filters, fences and lists that use it change with it; what ' +
      'it lets through is decided where it is used.',
    Body: lazy(() => import('./Filters').then(({ Filters: Body }) => ({ default: Body }))),
  },
  stamps: {
    title: 'Stamps',
    count: (draft) => draft.stamps?.length ?? 0,
    says:
      'A stamp is put into a column by the server when a record is made or changed, whatever the sender says; a ' +
      'default only where the column of a new record was left empty.',
    Body: lazy(() => import('./Stamps').then(({ Stamps: Body }) => ({ default: Body }))),
  },
  rules: {
    title: 'Field rules',
    count: (draft) => Object.values(draft.tables).reduce((sum, { rules }) => sum + (rules?.length ?? 0), 0),
    says:
      'What a table asks of a record whenever one is made or changed, whoever does it: a column that must hold ' +
      'something, one that stays as it is, or a record that is refused in your own words.',
    Body: lazy(() => import('./FieldRules').then(({ FieldRules: Body }) => ({ default: Body }))),
  },
  lifecycles: {
    title: 'Lifecycles',
    count: (draft) => draft.lifecycles?.length ?? 0,
    says:
      'A column of states changes by moves alone: who may take a record from which state to which, when, and ' +
      'with what filled in.',
    Body: lazy(() => import('./Lifecycles').then(({ Lifecycles: Body }) => ({ default: Body }))),
  },
  promises: {
    title: 'Promises',
    count: (draft) => draft.promises?.length ?? 0,
    says: 'A promise is a sentence about who sees or may do what. It is tested here and before each publish.',
    Body: lazy(() => import('./Promises').then(({ Promises: Body }) => ({ default: Body }))),
  },
  who: {
    title: 'Who sees what',
    count: () => undefined,
    says:
      'By the rules of the draft: who can see a column whole or masked, edit it, fill it or take it out, and ' +
      'through which role.',
    Body: lazy(() => import('./WhoSeesWhat').then(({ WhoSeesWhat: Body }) => ({ default: Body }))),
  },
  compare: {
    title: 'Side by side',
    count: () => undefined,
    says:
      'One table or page as two persons get it: how many rows, those that just one has, and the cells that are ' +
      'not the same.',
    Body: lazy(() => import('./SideBySideScreen').then(({ SideBySideScreen: Body }) => ({ default: Body }))),
  },
} satisfies Record<string, Screen>;

export type RuleScreenName = keyof typeof ruleScreens;

export function RuleScreen({ name }: { name: RuleScreenName }) {
  const { title, says, Body } = ruleScreens[name];
  return (
    <>
      <StageHead title={title} />
      <div className="grid content-start gap-4 p-4">
        <p className="max-w-180 text-soft">{says}</p>
        <Suspense fallback={<Skeleton lines={4} />}>
          <Body />
        </Suspense>
      </div>
    </>
  );
}
