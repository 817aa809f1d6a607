/** So many characters of text are kept at most; what was not met for longest goes first. */
const mostKept = 4_000_000;

/** A part that is longer is read anew each time. */
const longest = 200_000;

/**
 * Parts of documents that were found sound, by their text: a part that was sound once is sound wherever it stands
 * under the same name. Most of a definition is as it was at the last edit, and finding it sound takes long.
 */
export class KnownParts {
  private readonly sizes = new Map<string, number>();
  private kept = 0;

  /** The parts of a document that are not known, each with its text; what has no text is not known. */
  unknownOf(document: object): { part: string; value: unknown; text: string | undefined }[] {
    return Object.entries(document).flatMap(([part, value]) => {
      const text = JSON.stringify(value) as string | undefined;
      return text !== undefined && this.knows(part, text) ? [] : [{ part, value, text }];
    });
  }

  remember(part: string, text: string): void {
    if (text.length > longest) return;
    const key = keyOf(part, text);
    if (!this.sizes.has(key)) this.kept += key.length;
    this.sizes.set(key, key.length);
    for (const [oldest, size] of this.sizes) {
      if (this.kept <= mostKept) break;
      this.sizes.delete(oldest);
      this.kept -= size;
    }
  }

  private knows(part: string, text: string): boolean {
    const key = keyOf(part, text);
    const size = this.sizes.get(key);
    if (size === undefined) return false;
    this.sizes.delete(key);
    this.sizes.set(key, size);
    return true;
  }
}

const keyOf = (part: string, text: string) => `${part}\n${text}`;
