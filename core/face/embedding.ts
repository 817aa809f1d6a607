/** Whether a text is the origin of pages that a portal may be shown in: a host on TLS, with nothing behind it. */
export const isEmbedding = (text: string): boolean =>
  /^https:\/\/[a-z0-9.-]+(?::\d+)?$/.test(text) && URL.canParse(text) && new URL(text).origin === text;
