const schemes = ['https:', 'http:', 'mailto:', 'tel:'];

/** Whether an address leads outside in a way that runs nothing here: a page, a mail, a telephone. */
export function isOutside(address: string): boolean {
  return URL.canParse(address) && schemes.includes(new URL(address).protocol) && !/[\s\\]/.test(address);
}
