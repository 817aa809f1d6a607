/** Whether a text is a plain origin that a browser can be told of frames: a host on TLS, with nothing behind it. */
export const isEmbedding = (text: string): boolean =>
  /^https:\/\/[a-z0-9.-]+(?::\d+)?$/.test(text) && URL.canParse(text) && new URL(text).origin === text;
