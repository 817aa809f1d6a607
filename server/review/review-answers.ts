import Joi from 'joi';
import type { Explanation, RowsExplanation } from '../../core/access/explain';
import type { AskedOf, Reach, WhoSees } from '../../core/access/who';
import type { Accepted } from '../../core/check/accepted';
import type { Finding } from '../../core/check/finding';
import type { RosterFacts } from '../../core/check/roster-findings';
import type { Condition } from '../../core/condition/tree';
import type { Mask } from '../../core/mask/mask';
import type { MaskSample, PeopleCount, SideBySide, WriteExplanation } from '../gate/gate';
import { byName, cell, form, listOf, said, saidOrNull, whole, wholeOrNull, yesNo } from '../http/answers';
import { openRecord } from '../records/record-answers';

/** A condition as its tree. What its kinds hold beside is the definition's format, and said there. */
const condition = Joi.object<Condition>({ kind: Joi.string().required() }).unknown();

/** A mask with the settings of its style, as the definition's format has them. */
const mask = Joi.object<Mask>({ style: Joi.string().required() }).unknown();

const openness = form<{ level: NonNullable<Explanation['cell']>['level']; mask?: Mask }>({
  level: Joi.valid('shown', 'masked', 'hidden'),
  mask: mask.optional(),
});

const rows = form<RowsExplanation>({
  holds: yesNo,
  parts: listOf(
    form<NonNullable<RowsExplanation['parts']>[number]>({
      origin: form<{ kind: string; of?: string; id?: string }>({
        kind: said,
        of: said.optional(),
        id: said.optional(),
      }),
      holds: yesNo,
      // Nested as the condition is.
      trace: Joi.object({ condition: condition.required(), outcome: yesNo.allow(null).required() }).unknown(),
    }),
  ).allow(null),
});

type RoleExplanation = Explanation['roles'][number];

export const explanation = form<Explanation>({
  table: said,
  column: saidOrNull,
  inView: yesNo,
  cell: openness.allow(null),
  editable: yesNo,
  deletable: yesNo,
  moves: listOf(said),
  actions: listOf(said),
  ceiling: Joi.string().valid('nothing', 'read').allow(null),
  roles: listOf(
    form<RoleExplanation>({
      role: said,
      steward: said.optional(),
      granted: yesNo,
      see: rows.allow(null),
      edit: rows.allow(null),
      remove: rows.allow(null),
      keepIn: rows.allow(null),
      listsColumn: yesNo.allow(null),
      moves: listOf(
        form<RoleExplanation['moves'][number]>({ move: said, fromHere: yesNo, where: rows, missing: listOf(said) }),
      ),
      actions: listOf(form<RoleExplanation['actions'][number]>({ action: said, fromHere: yesNo, where: rows })),
      openness: openness.allow(null),
      masks: listOf(form<RoleExplanation['masks'][number]>({ id: said, mask, outcome: said })),
    }),
  ),
});

export const writeExplanation = form<WriteExplanation>({
  outcome: form<WriteExplanation['outcome']>({
    allowed: yesNo,
    words: saidOrNull,
    fields: byName(said),
    record: openRecord.allow(null),
  }),
  before: explanation.allow(null),
  after: listOf(
    form<WriteExplanation['after'][number]>({
      role: said,
      steward: said.optional(),
      mayFill: byName(yesNo),
      keepIn: rows,
    }),
  ),
  relations: listOf(
    form<WriteExplanation['relations'][number]>({
      column: said,
      table: said,
      value: cell,
      isThere: yesNo,
      isSeen: yesNo,
    }),
  ),
});

export const maskSample = form<MaskSample>({ value: cell, masked: saidOrNull });

const seen = form<NonNullable<SideBySide['records'][number]['seen'][0]>>({
  values: byName(cell),
  masked: listOf(said),
});

export const sideBySideAnswer = form<SideBySide>({
  columns: listOf(said),
  counts: form<SideBySide['counts']>({ first: whole, second: whole, both: whole }),
  records: listOf(
    form<SideBySide['records'][number]>({
      id: saidOrNull,
      seen: Joi.array().items(seen.allow(null)).length(2),
      differing: listOf(said),
    }),
  ),
});

const reach = form<Reach>({
  actions: listOf(said),
  level: Joi.valid('shown', 'masked', 'hidden'),
  mask: saidOrNull,
  edit: yesNo,
  create: yesNo,
  export: yesNo,
  through: listOf(said),
  stewards: listOf(said),
});

const named = form<{ id: number | null; name: string }>({ id: wholeOrNull, name: said });

/** Who sees what: of columns whoever reaches them, or of one person whatever they reach. */
export interface WhoAnswer {
  asked?: AskedOf[];
  found?: WhoSees[];
  name?: string;
  reached?: (AskedOf & { reach: Reach; rows: string })[];
}

const asked = { table: said, column: said };

export const whoAnswer = form<WhoAnswer>({
  asked: listOf(form<AskedOf>(asked)).optional(),
  found: listOf(
    form<WhoSees>({
      ...asked,
      roles: listOf(form<WhoSees['roles'][number]>({ role: said, reach })),
      people: listOf(form<WhoSees['people'][number]>({ reach, people: listOf(named) })),
      effects: listOf(
        form<WhoSees['effects'][number]>({
          action: said,
          to: Joi.object().unknown().allow(null),
          by: form<WhoSees['effects'][number]['by']>({ roles: listOf(said), clock: yesNo }),
        }),
      ),
    }),
  ).optional(),
  name: said.optional(),
  reached: listOf(form<NonNullable<WhoAnswer['reached']>[number]>({ ...asked, reach, rows: said })).optional(),
});

/** Of a large role some members are counted first; `inRole` says how many there are. */
export type RoleCount = PeopleCount & { inRole: number };

/** What a condition comes to: its tree, and how many records it lets through. */
export interface CountedCondition {
  condition: Condition;
  passing: number | null;
  total: number | null;
  role: RoleCount | null;
}

export const countedCondition = form<CountedCondition>({
  condition,
  passing: wholeOrNull,
  total: wholeOrNull,
  role: form<RoleCount>({
    people: whole,
    least: whole,
    most: whole,
    withNone: whole,
    none: listOf(named),
    inRole: whole,
  }).allow(null),
});

const findingKeys = {
  id: said,
  kind: said,
  severity: Joi.valid('leak', 'broken', 'slow'),
  title: said,
  why: said,
  place: form<Finding['place']>({
    stage: Joi.valid('data', 'people', 'access', 'pages'),
    table: said.optional(),
    role: said.optional(),
    column: said.optional(),
    page: said.optional(),
    fieldRule: said.optional(),
    screen: said.optional(),
    what: said.optional(),
  }),
};

/** What the automatic check of a portal found, what is meant so, and how the rosters' rows stand. */
export interface Findings {
  findings: Finding[];
  accepted: Accepted[];
  rosters: RosterFacts[];
}

export const findings = form<Findings>({
  findings: listOf(form<Finding>(findingKeys)),
  accepted: listOf(form<Accepted>({ ...findingKeys, reason: said })),
  rosters: listOf(form<RosterFacts>({ table: said, rows: whole, withoutEmail: whole, sharedEmail: whole })),
});
