import type { Hung } from '../definition/hung';
/** Where the builder mends a finding. */
export interface Place {
  stage: 'data' | 'people' | 'access' | 'pages';
  table?: string;
  role?: string;
  column?: string;
  page?: string;
  /** A field rule, as the table and its id. */
  fieldRule?: string;
  /** A screen of the stage that is not a table's. */
  screen?: string;
  /** The operation, or the rule, that is meant. */
  what?: string;
}

/** Something that the automatic check of a portal holds against it. */
export interface Finding {
  id: string;
  kind: FindingKind;
  /** `leak`: someone may see or do too much. `broken`: someone can't do what is meant. `slow`: it works, at a price. */
  severity: 'leak' | 'broken' | 'slow';
  title: string;
  why: string;
  place: Place;
}

type FindingKind =
  | 'history without rows'
  | 'no history is kept'
  | 'history without a key'
  | 'cluster without a key'
  | 'numbers with gaps'
  | 'visitor reads history'
  | 'relation leads nowhere'
  | 'everyone reads everything'
  | 'no e-mail'
  | 'e-mail used twice'
  | 'masked but editable'
  | 'filter does not work'
  | 'field rule does not work'
  | 'field rule tells'
  | 'page shows nothing'
  | 'audience does not work'
  | 'section does not work'
  | 'face does not work'
  | 'roster does not work'
  | 'mail does not work'
  | 'no way in'
  | 'filter is never true'
  | 'filter is always true'
  | 'edit wider than see'
  | 'required column nobody fills'
  | 'maker leaves no mark'
  | "maker can't see it"
  | 'edit moves it out of reach'
  | 'own mark can be changed'
  | 'label is masked'
  | 'visitor writes'
  | 'visitor sees personal data'
  | 'unique column tells'
  | 'ceiling makes it void'
  | 'fence is missing'
  | 'page sorts by a mask'
  | 'members lack a fact'
  | 'member on two rosters'
  | 'member without role'
  | 'role rule does not work'
  | 'rights can be written'
  | 'role without members'
  | 'filter column without index'
  | 'branch without the member'
  | 'another number'
  | 'export wider than see'
  | 'rows without columns'
  | 'columns without rows'
  | 'mask on the address'
  | 'mask with exceptions'
  | 'narrow beside wide'
  | 'empty values fall out'
  | 'nobody gets a row'
  | `${Hung} without rows`
  | `${Hung} stay closed`
  | `visitor reads ${Hung}`
  | 'key does not tell apart'
  | 'key is not seen'
  | 'page column nobody sees'
  | 'sign-up does not work'
  | 'sign-up for everybody'
  | 'domain of everybody'
  | 'seen without a row'
  | 'steward does not work'
  | 'steward of everyone'
  | 'steward of stewards'
  | 'action does not work'
  | 'action for nobody'
  | 'action sets itself off'
  | 'action writes unseen'
  | 'form does not work'
  | 'bringing does not work'
  | 'source away';
