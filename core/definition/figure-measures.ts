/** What is reckoned of records. */
export const figureMeasures = ['count', 'sum', 'average', 'minimum', 'maximum', 'distinct'] as const;

export type FigureMeasure = (typeof figureMeasures)[number];
