/**
 * What a part says when it is pointed at or has the focus; `Hints` shows it. Where it `describes` what the part doesn't
 * say itself, screen readers read it too.
 */
export function hint(text: string | null | undefined, describes = false): Record<string, string> {
  return text ? { 'data-hint': text, ...(describes ? { 'aria-description': text } : {}) } : {};
}
