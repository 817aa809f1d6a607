/**
 * What every benchmark prints last, as one line of JSON. `ratio` is ours to reference; `aim` is the ratio or amount
 * hoped for.
 */
export interface Figure {
  name: string;
  ours: number;
  reference: number;
  unit: string;
  ratio: number;
  aim: string;
}

export function quantile(values: number[], share: number): number {
  const sorted = values.toSorted((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]!;
}

export const round = (value: number, digits = 3): number => Number(value.toFixed(digits));
