/** A file that can't be read, said to the person who brought it. */
export class FileProblem extends Error {}
