/** With its slashes: without them a browser takes an address of a page's own scheme as one on the same site. */
const begins = /^(?:https?:\/\/|mailto:|tel:)/i;

/** Whether an address leads outside in a way that runs nothing here: a page, a mail, a telephone. */
export function isOutside(address: string): boolean {
  return begins.test(address) && URL.canParse(address) && !/[\s\\]/.test(address);
}
