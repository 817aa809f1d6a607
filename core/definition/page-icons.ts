/** Small pictures that a page can have beside its title among the pages. */
export const pageIcons = [
  'house',
  'list',
  'person',
  'people',
  'place',
  'map',
  'calendar',
  'clock',
  'chart',
  'money',
  'letter',
  'note',
  'box',
  'drop',
  'flask',
  'wrench',
  'key',
  'leaf',
] as const;

export type PageIcon = (typeof pageIcons)[number];
