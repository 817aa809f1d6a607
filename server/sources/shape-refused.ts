/** What the database itself says against a change of shape: about names and types, never about records. */
export class ShapeRefused extends Error {
  constructor(said: string, cause: unknown) {
    super(`The database can't do this: ${said}`, { cause });
  }
}
