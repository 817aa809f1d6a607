import { actJobEndpoints } from './actions/act-job-endpoints';
import { actionEndpoints } from './actions/action-endpoints';
import { admitSources } from './connections/admit-sources';
import { connectionEndpoints } from './connections/connection-endpoints';
import { furtherSourceEndpoints } from './connections/further-source-endpoints';
import { whoThenEndpoints } from './disclosure/who-then-endpoints';
import { accessReviewEndpoints } from './disclosure/access-review-endpoints';
import { personsFileEndpoints } from './disclosure/persons-file-endpoints';
import { draftEndpoints } from './drafts/draft-endpoints';
import { faceEndpoints } from './face/face-endpoints';
import type { ApiOf } from './http/endpoint';
import type { Mount } from './http/mounts';
import { fileEndpoints } from './imports/file-endpoints';
import { stewardFileEndpoints } from './imports/steward-file-endpoints';
import { formEndpoints } from './pages/form-endpoints';
import { formLinkEndpoints } from './forms/form-link-endpoints';
import { proofEndpoints } from './review/proof-endpoints';
import { sentEndpoints } from './forms/sent-endpoints';
import { pageEndpoints } from './pages/page-endpoints';
import { mailEndpoints } from './people/mail-endpoints';
import { peopleEndpoints } from './people/people-endpoints';
import { portalEndpoints, portalsEndpoints } from './portals/portal-endpoints';
import { logEndpoints } from './logbook/log-endpoints';
import type { Services } from './portals/services';
import { sheetEndpoints } from './pages/sheet-endpoints';
import { timedEndpoints } from './timed/timed-endpoints';
import { asKey } from './keys/as-key';
import { historyBenchEndpoints, historyEndpoints } from './history/history-endpoints';
import { keyApiEndpoints } from './keys/key-api';
import { keyEndpoints } from './keys/key-endpoints';
import { callEndpoints } from './calls/call-endpoints';
import { exportJobEndpoints } from './records/export-endpoints';
import { keptViewEndpoints } from './pages/kept-view-endpoints';
import { ownJobEndpoints } from './records/job-endpoints';
import { recordEndpoints } from './records/record-endpoints';
import { accessEndpoints } from './review/access-endpoints';
import { whyEndpoints } from './review/why-endpoints';
import { colleagueEndpoints } from './sessions/colleague-endpoints';
import { builderEndpoints } from './sessions/builder-endpoints';
import { atDraftProvider, benchSignInEndpoints } from './sign-in/bench-sign-in-endpoints';
import { atBenchDoor } from './sign-in/bench-doorway';
import { builderLinkEndpoints } from './sign-in/builder-link-endpoints';
import { atBenchProvider, builderRulesEndpoints } from './sign-in/builder-rules-endpoints';
import { linkEndpoints } from './sign-in/link-endpoints';
import { builderAsOneself, memberAsOneself, ownSignInEndpoints } from './sign-in/own-sign-in-endpoints';
import { atPortalDoor } from './sign-in/portal-doorway';
import { passkeyEndpoints } from './sign-in/passkey-endpoints';
import { providerSettingEndpoints } from './sign-in/provider-setting-endpoints';
import { providerEndpoints } from './sign-in/provider-endpoints';
import { secondFactorEndpoints } from './sign-in/second-factor-endpoints';
import { approverEndpoints, benchSignUpEndpoints } from './sign-up/request-endpoints';
import { signUpEndpoints } from './sign-up/sign-up-endpoints';
import { signInEndpoints } from './sign-in/sign-in-endpoints';
import { keptEndpoints } from './shaping/kept-endpoints';
import { shapeEndpoints } from './shaping/shape-endpoints';
import { tableEndpoints } from './shaping/table-endpoints';
import { handOverEndpoints } from './stewards/hand-over-endpoints';
import { stewardPeopleEndpoints } from './stewards/steward-people-endpoints';
import { versionEndpoints } from './versions/version-endpoints';
import { asMember, asSeenBy, atAllRecords } from './visits/entries';
import { asPublicSender, asVisitor } from './visits/visitor-visit';

const bench = '/builder/portals/:slug';

/** Every endpoint of the product, a subject after the other, under the address where it stands. */
export function apiOf(services: Services): Mount[] {
  const { sequelize } = services.store;
  const visitor = asVisitor(services);
  const key = asKey(services);
  const [portalDoor, benchDoor] = [atPortalDoor(services), atBenchDoor(services)];
  const subjects: [under: string, subject: string, endpoints: Mount['endpoints']][] = [
    // First what is asked all the time: an address is looked for one endpoint after the other.
    ['/portals/:slug', 'Own records', recordEndpoints(sequelize, asMember(services))],
    ['/portals/:slug', 'Own records', actionEndpoints(asMember(services), services)],
    ['/portals/:slug', 'Own records', historyEndpoints(asMember(services))],
    ['/portals/:slug', 'Own pages', pageEndpoints(asMember(services))],
    ['/portals/:slug', 'Own pages', keptViewEndpoints(asMember(services))],
    ['/portals/:slug/public', 'Public records', recordEndpoints(sequelize, visitor)],
    ['/portals/:slug', 'Own pages', formEndpoints(asMember(services), services.publicForms, services.signedLinks)],
    [
      '/portals/:slug/public',
      'Public pages',
      formEndpoints(asPublicSender(services), services.publicForms, services.signedLinks),
    ],
    ['/portals/:slug/public', 'Public pages', pageEndpoints(visitor)],
    ['/portals/:slug', 'Door', signInEndpoints(services, portalDoor)],
    ['/portals/:slug', 'Door', providerEndpoints(services, portalDoor)],
    ['/portals/:slug', 'Door', secondFactorEndpoints(services, portalDoor)],
    ['/portals/:slug', 'Door', passkeyEndpoints(services, portalDoor)],
    ['/portals/:slug', 'Door', linkEndpoints(services, portalDoor)],
    ['/portals', 'Door', signUpEndpoints(services)],
    ['/portals/:slug', 'Own sign-in', ownSignInEndpoints(memberAsOneself(services), services)],
    ['/portals/:slug', 'Own records', exportJobEndpoints(asMember(services), services.jobs)],
    ['/portals/:slug', 'Own records', sheetEndpoints(asMember(services), services.jobs)],
    ['/portals/:slug', 'Own people', stewardPeopleEndpoints(services, asMember(services))],
    ['/portals/:slug', 'Own requests', approverEndpoints(services.signUps, asMember(services))],
    ['/portals/:slug', 'Own hand-overs', handOverEndpoints(asMember(services))],
    ['/portals/:slug', 'Own files', stewardFileEndpoints(sequelize, asMember(services), services.jobs)],
    ['/portals/:slug', 'Own jobs', actJobEndpoints(asMember(services), services.jobs)],
    ['/portals/:slug', 'Own jobs', ownJobEndpoints(sequelize, asMember(services), services.jobs)],
    ['/v1/portals/:slug', 'By key', keyApiEndpoints(key)],
    ['/v1/portals/:slug', 'By key', recordEndpoints(sequelize, key)],
    ['/v1/portals/:slug', 'By key', historyEndpoints(key)],
    ['/v1/portals/:slug', 'By key', actionEndpoints(key, services)],
    ['/builder', "Bench's door", signInEndpoints(services, benchDoor)],
    ['/builder', "Bench's door", providerEndpoints(services, benchDoor)],
    ['/builder', "Bench's door", secondFactorEndpoints(services, benchDoor)],
    ['/builder', "Bench's door", passkeyEndpoints(services, benchDoor)],
    ['/builder', "Bench's door", builderLinkEndpoints(services)],
    ['/builder', 'Own sign-in', ownSignInEndpoints(builderAsOneself(services), services)],
    ['/builder', 'Builders', builderEndpoints(services)],
    ['/builder', 'Builders', builderRulesEndpoints(services)],
    ['/builder', 'Builders', providerSettingEndpoints(services.providers, atBenchProvider(services))],
    ['/builder', 'Colleagues', colleagueEndpoints(services)],
    ['/builder', 'Connections', connectionEndpoints(services)],
    ['/builder', 'Portals', portalsEndpoints(services)],
    [bench, 'Portal', portalEndpoints(services)],
    [bench, 'Draft', draftEndpoints(services, (builderId) => admitSources(services, builderId))],
    [bench, 'Face', faceEndpoints(services)],
    [bench, 'Tables', tableEndpoints(services)],
    [bench, 'Files and jobs', fileEndpoints(services)],
    [bench, 'Shape', shapeEndpoints(services)],
    [bench, 'Kept at sources', keptEndpoints(services)],
    [bench, 'Sources', furtherSourceEndpoints(services)],
    [bench, 'People', peopleEndpoints(services, services.jobs)],
    [bench, 'People', personsFileEndpoints(services)],
    [bench, 'Log', whoThenEndpoints(services)],
    [bench, 'Log', accessReviewEndpoints(services)],
    [bench, 'Mails', mailEndpoints(services, services.jobs)],
    [bench, 'Calls', callEndpoints(services)],
    [bench, 'At a time', timedEndpoints(services)],
    [bench, 'Keys', keyEndpoints(services)],
    [bench, 'Sign-ups', benchSignUpEndpoints(services)],
    [bench, 'Signing in', benchSignInEndpoints(services)],
    [bench, 'Signing in', providerSettingEndpoints(services.providers, atDraftProvider(services))],
    [bench, 'Access', accessEndpoints(services)],
    [bench, 'Proof', proofEndpoints(services, services.jobs)],
    [bench, 'Forms', sentEndpoints(services)],
    [bench, 'Forms', formLinkEndpoints(services)],
    [bench, 'Versions', versionEndpoints(services, services.jobs)],
    [bench, 'Log', logEndpoints(services)],
    [bench, 'Log', historyBenchEndpoints(services)],
    // The builder's own grid: the same ways as members have, under the builder's grant.
    [`${bench}/all`, 'All records', recordEndpoints(sequelize, atAllRecords(services))],
    [`${bench}/all`, 'All records', historyEndpoints(atAllRecords(services))],
    [`${bench}/all`, 'All records', exportJobEndpoints(atAllRecords(services), services.jobs)],
    [`${bench}/as/:member`, 'Seen by', whyEndpoints(services)],
    [`${bench}/as/:member`, 'Seen by', pageEndpoints(asSeenBy(services))],
    [`${bench}/as/:member`, 'Seen by', recordEndpoints(sequelize, asSeenBy(services))],
    [`${bench}/as/:member`, 'Seen by', historyEndpoints(asSeenBy(services))],
    [`${bench}/as/:member`, 'Seen by', actionEndpoints(asSeenBy(services), services)],
    [`${bench}/as/:member`, 'Seen by', formEndpoints(asSeenBy(services), services.publicForms, services.signedLinks)],
    [`${bench}/as/:member`, 'Seen by', stewardPeopleEndpoints(services, asSeenBy(services))],
    [`${bench}/as/:member`, 'Seen by', handOverEndpoints(asSeenBy(services))],
    [`${bench}/as/:member`, 'Seen by', approverEndpoints(services.signUps, asSeenBy(services))],
  ];
  return subjects.map(([under, subject, endpoints]) => ({ under, subject, endpoints }));
}

/** What stands at every door, a portal's and the bench's. */
export type DoorApi = ApiOf<
  ReturnType<typeof signInEndpoints> & ReturnType<typeof secondFactorEndpoints> & ReturnType<typeof passkeyEndpoints>
>;

/** What stands at a portal's door alone. */
export type LinkApi = ApiOf<ReturnType<typeof linkEndpoints>>;

/** How those who are new come in. */
export type SignUpApi = ApiOf<ReturnType<typeof signUpEndpoints>>;

/** Pages and records, under whichever address they are asked at. */
export type RecordApi = ApiOf<
  ReturnType<typeof pageEndpoints> &
    ReturnType<typeof recordEndpoints> &
    ReturnType<typeof actionEndpoints> &
    ReturnType<typeof historyEndpoints> &
    ReturnType<typeof formEndpoints>
>;

/** Spreadsheets of what is on pages, and the jobs that make them. */
export type OwnJobApi = ApiOf<
  ReturnType<typeof sheetEndpoints> & ReturnType<typeof actJobEndpoints> & ReturnType<typeof ownJobEndpoints>
>;

/** Views that members keep. */
export type KeptViewApi = ApiOf<ReturnType<typeof keptViewEndpoints>>;

/** What stewards do, under whichever address it is asked at. */
export type StewardApi = ApiOf<
  ReturnType<typeof stewardPeopleEndpoints> &
    ReturnType<typeof handOverEndpoints> &
    ReturnType<typeof approverEndpoints>
>;

/** What stewards bring, and the jobs on it. */
export type KeptApi = ApiOf<ReturnType<typeof stewardFileEndpoints> & ReturnType<typeof ownJobEndpoints>>;

/** What people see and change of their own way in. */
export type OwnApi = ApiOf<ReturnType<typeof ownSignInEndpoints>>;

/** What stands under the workplace's own address. */
export type WorkplaceApi = ApiOf<
  ReturnType<typeof builderEndpoints> &
    ReturnType<typeof builderLinkEndpoints> &
    ReturnType<typeof builderRulesEndpoints> &
    ReturnType<typeof providerSettingEndpoints> &
    ReturnType<typeof colleagueEndpoints> &
    ReturnType<typeof connectionEndpoints> &
    ReturnType<typeof portalsEndpoints>
>;

/** What stands under the address of a portal on the bench. */
export type BenchApi = ApiOf<
  ReturnType<typeof portalEndpoints> &
    ReturnType<typeof historyBenchEndpoints> &
    ReturnType<typeof whoThenEndpoints> &
    ReturnType<typeof accessReviewEndpoints> &
    ReturnType<typeof draftEndpoints> &
    ReturnType<typeof faceEndpoints> &
    ReturnType<typeof tableEndpoints> &
    ReturnType<typeof fileEndpoints> &
    ReturnType<typeof shapeEndpoints> &
    ReturnType<typeof keptEndpoints> &
    ReturnType<typeof furtherSourceEndpoints> &
    ReturnType<typeof peopleEndpoints> &
    ReturnType<typeof mailEndpoints> &
    ReturnType<typeof benchSignInEndpoints> &
    ReturnType<typeof providerSettingEndpoints> &
    ReturnType<typeof benchSignUpEndpoints> &
    ReturnType<typeof accessEndpoints> &
    ReturnType<typeof sentEndpoints> &
    ReturnType<typeof proofEndpoints> &
    ReturnType<typeof formLinkEndpoints> &
    ReturnType<typeof callEndpoints> &
    ReturnType<typeof timedEndpoints> &
    ReturnType<typeof keyEndpoints> &
    ReturnType<typeof logEndpoints> &
    ReturnType<typeof versionEndpoints>
>;

/** What is asked only of all records. */
export type AllRecordsApi = ApiOf<ReturnType<typeof exportJobEndpoints>>;

/** What is asked only beside Seen by. */
export type WhyApi = ApiOf<ReturnType<typeof whyEndpoints>>;
