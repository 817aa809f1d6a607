import Joi from 'joi';
import { memberStates } from '../../core/people/member-state';
import { byName, form, listOf, moment, said, saidOrNull, whole, yesNo } from '../http/answers';
import type { Suspension } from './administer';
import type { FoundMember, FoundMembers } from './find-members';
import type { GivenRole } from './given-roles';
import type { MemberSheet, SessionInfo, SheetRow } from './member-sheet';
import type { RefreshOutcome, RowFault } from './refresh';

const momentOrNull = moment.allow(null);

const foundMemberKeys = {
  id: whole,
  name: said,
  email: said,
  state: Joi.valid(...memberStates),
  canSignIn: yesNo,
  withoutRow: yesNo,
  rosters: listOf(said),
  roles: listOf(said),
  organisation: saidOrNull,
  lastIn: momentOrNull,
  invitedAt: momentOrNull,
};

export const foundMembers = form<FoundMembers>({
  total: whole,
  isMore: yesNo,
  members: listOf(form<FoundMember>(foundMemberKeys)),
});

const sessionInfo = form<SessionInfo>({
  id: whole,
  device: saidOrNull,
  beganAt: momentOrNull,
  lastUsed: moment,
});

export const memberSheetAnswer = form<MemberSheet>({
  ...foundMemberKeys,
  knownSince: moment,
  goneSince: momentOrNull,
  suspended: form<Suspension>({ by: said, why: said, since: moment }).allow(null),
  given: listOf(form<GivenRole>({ role: said, reason: said, by: said, at: moment })),
  rows: listOf(
    form<SheetRow>({
      roster: said,
      key: said,
      fault: Joi.valid('gone', 'another e-mail', 'does not count', null),
      roles: listOf(said),
    }),
  ),
  sessions: listOf(sessionInfo),
  hasSecondFactor: yesNo,
});

const why = Joi.valid('no e-mail', 'not an e-mail', 'e-mail of several rows', 'does not count') as Joi.Schema<RowFault>;

export const refreshOutcome = form<RefreshOutcome>({
  came: whole,
  changed: whole,
  went: whole,
  left: byName(whole) as unknown as Joi.Schema,
  people: listOf(
    form<RefreshOutcome['people'][number]>({
      what: Joi.valid('came', 'came back', 'changed', 'address changed', 'went'),
      name: said,
      email: said,
    }),
  ),
  rows: listOf(form<RefreshOutcome['rows'][number]>({ roster: said, name: said, email: said, why })),
  unread: listOf(said),
});
