import type { HungGrant } from '../core/definition/hung';

/** The same of comments and of files. */
const both = (of: HungGrant) => ({ comments: of, files: of });

const own: HungGrant = { forAll: ['write', 'delete own'] };

export const ownTalk = both(own);
/** Also what was hung on a record before it was theirs. */
export const alwaysTheirs = both({ ...own, earlier: true });
export const talkOfDesk = both({
  forAll: ['write', 'delete own', 'delete any'],
  amongUs: ['write', 'delete own'],
});
