import type { PageIcon } from '../core/definition/page-icons';

/** What stands beside their titles among the pages: on a phone they are pressed by it. */
export const icons: Record<string, PageIcon> = {
  home: 'house',
  visits: 'calendar',
  'lab-results': 'list',
  couriers: 'people',
  'pick-ups': 'map',
  notices: 'note',
  leaving: 'people',
  requests: 'letter',
  parish: 'people',
  'my-wells': 'drop',
  'my-visits': 'calendar',
  'my-details': 'person',
  'my-results': 'flask',
  'lab-bottles': 'flask',
  'all-visits': 'calendar',
  'all-owners': 'people',
  'all-wells': 'drop',
  glance: 'chart',
  fees: 'money',
  week: 'calendar',
  advisories: 'note',
  doubts: 'place',
  asked: 'drop',
};
