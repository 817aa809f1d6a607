const plural = new Intl.PluralRules('en');

/**
 * A number of things in words, `1 row` or `2,600 rows`; the number as the locale writes it, the browser's own where
 * none is given.
 */
export function counted(number: number, one: string, many = `${one}s`, locale?: string): string {
  return `${new Intl.NumberFormat(locale).format(number)} ${plural.select(number) === 'one' ? one : many}`;
}
