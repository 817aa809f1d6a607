/** The portal's database is not connected any more, or can't be opened. */
export class SourceGone extends Error {}
