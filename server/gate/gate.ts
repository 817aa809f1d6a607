/** The one face of the gate: all that anything outside of it may use. What is not here is the gate's own. */
export { dataFacts } from './facts/data-facts';
export { tryKey } from './facts/declared-keys';
export { suggestClasses } from './facts/evidence';
export {
  type RosterRow,
  type Standing,
  isRosterRead,
  rosterFacts,
  rosterPeople,
  rosterRepeats,
  rosterRows,
  rosterStanding,
} from './facts/roster';
export { rosterApart } from './facts/roster-apart';
export { type Membership, type OwnQuestion, RostersBeside } from './facts/roster-beside';
export { type SavedQuery, readSavedQuery, trySavedQuery, withSavedQueries } from './facts/saved-query';
export { type RelationSuggestion, suggestCrossings, suggestRelations } from './facts/suggest-relations';
export { type FileRows, bring } from './import/bring';
export type { BringOutcome, RefusedRow } from './import/bring-outcome';
export { type Discussed, type RecordKey, discussed, goneRecords } from './read/discussed';
export {
  type AtOnce,
  type ExportedPage,
  type LinedPage,
  exportAcross,
  exportLined,
  exportPage,
  exportRows,
  linedPage,
  smallPage,
} from './read/export';
export { type FigureAnswer, type FigureQuestion, type Measure, figures, measures } from './read/figures';
export { type ListAnswer, type ListPage, type ListQuestion, count, list, page } from './read/list';
export { type Candidate, lookup, titleFurther, titleOf } from './read/lookup';
export { ownRecords } from './read/own-records';
export { type Past, type ToldChange, type ToldValue, keptRow, past, readPast } from './read/past';
export { read } from './read/read';
export { related } from './read/related';
export { type ComparedGroup, compareDefinitions } from './review/compare';
export { countCondition } from './review/count-condition';
export { type PeopleCount, countForPeople } from './review/count-people';
export { type MaskSample, maskSamples } from './review/mask-samples';
export { prove } from './review/prove';
export type { Proof } from './review/proof';
export { testPromises } from './review/promises';
export { type SideBySide, sideBySide } from './review/side-by-side';
export { why } from './review/why';
export { type WriteExplanation, whyChange, whyCreate, whyRemove } from './review/why-write';
export { type TypeChange, changeType } from './shape/change-type';
export { type MissingIndex, makeIndex, missingIndexes } from './shape/indexes';
export { makeTable } from './shape/new-table';
export {
  ScriptRowsRefused,
  beginScript,
  createScriptTables,
  dropScript,
  keepScript,
  putScriptRows,
  relateLater,
} from './shape/script-tables';
export { type Gone, bringBack, dropMakings, listGone, takeColumnAway, takeTableAway } from './shape/set-aside';
export { addColumn, drawTable, refuseTaken, renameColumn, renameTable } from './shape/shape';
export { across, at, beyond } from './view/across';
export { type OwnLine, Assumed } from './view/assumed';
export { BadQuestion, InvalidValues, NotFound, Refused, SomeRefused } from './view/errors';
export type { OpenRecord } from './view/open-record';
export { openTable } from './view/open-table';
export { isSortable } from './view/order';
export { type Outcome, sayOutcome } from './view/outcome';
export { readRecordId as keyOfRecord, recordId } from './view/record-id';
export type { ViewRecord } from './view/view-record';
export { ViewSql, viewSql } from './view/view-sql';
export type { Leaving, LeavingMail } from './view/leaving';
export type { RecordChange } from './view/record-change';
export type {
  FilesOfColumns,
  HeldBeside,
  HistoryKeeper,
  Leaver,
  Part,
  PlacedVisit,
  RowLookedAfter,
  Visit,
} from './view/visit';
export { type Press, act } from './write/act';
export { type DueBatch, actOnDue } from './write/act-on-due';
export { putAnswer } from './write/answered';
export type { Acted } from './write/steps';
export type { PressDone } from './write/press-done';
export { takeBackActs } from './write/take-back';
export { actWithEach } from './write/act-each';
export { type Correctable, correct, createCorrectable } from './write/correct';
export type { NewLines } from './write/new-lines';
export { create } from './write/create';
export { type Changes, edit } from './write/edit';
export { type HandedOver, type LeftThere, countHandOver, handOver, takeBack } from './write/hand-over';
export { remove } from './write/remove';
export { type Write, several } from './write/several';
