export const intervalUnits = ['MINUTE', 'HOUR', 'DAY', 'WEEK', 'MONTH', 'YEAR'] as const;

export type IntervalUnit = (typeof intervalUnits)[number];
