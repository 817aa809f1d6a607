/** Recognises numbers by their own check: what masks and data classes rely on. */

/**
 * Whether the check digit of a number is right by the Luhn formula, ISO/IEC 7812-1 annex B. Spaces and hyphens are
 * passed over.
 */
export function passesLuhn(text: string): boolean {
  const digits = text.replaceAll(/[ -]/g, '');
  if (!/^\d{2,19}$/.test(digits)) return false;
  const sum = Array.from(digits)
    .toReversed()
    .reduce((total, digit, i) => {
      const doubled = Number(digit) * (i % 2 === 1 ? 2 : 1);
      return total + (doubled > 9 ? doubled - 9 : doubled);
    }, 0);
  return sum % 10 === 0;
}

/**
 * Whether a text is an IBAN with right check digits: ISO 13616-1, by ISO/IEC 7064 MOD 97-10. Spaces are passed over.
 */
export function isIban(text: string): boolean {
  const compact = text.replaceAll(' ', '').toUpperCase();
  if (!/^[A-Z]{2}\d{2}[A-Z0-9]{11,30}$/.test(compact)) return false;
  const digits = Array.from(compact.slice(4) + compact.slice(0, 4), (sign) => parseInt(sign, 36).toString()).join('');
  return BigInt(digits) % 97n === 1n;
}
