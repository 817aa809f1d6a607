import type { Finding } from '../core/check/finding';
import type { Page } from '../core/definition/definition';
import type { OnPage } from '../core/definition/section-kinds';
import type { ListSection } from './list/spec';

/** A section of numbers, and the list of its page that they go with. */
interface Following extends OnPage {
  table: string;
  follows?: string;
}

/** The lists of a page that numbers of a table can go with. */
export const listsOf = ({ sections }: Page, table: string): ListSection[] =>
  sections.filter((each): each is ListSection => each.kind === 'list' && each.table === table);

/** The list that a section goes with; null where there is none, or it is gone. */
export const followedList = (
  page: Page,
  { table, follows }: Pick<Following, 'table' | 'follows'>,
): ListSection | null => listsOf(page, table).find(({ id }) => id === follows) ?? null;

/** Numbers that go with a list which is not on the page, or is of another table. */
export function followedGone(page: Page, section: Following): Finding[] {
  if (section.follows === undefined || followedList(page, section)) return [];
  const { id, title } = section;
  return [
    {
      id: `section-list/${page.id}/${id}`,
      kind: 'section does not work',
      severity: 'broken',
      place: { stage: 'pages', page: page.id },
      title: `${title ?? id} on ${page.title} goes with a list that is not there`,
      why: 'It is reckoned of all that the person sees instead. Choose a list of the page, or nothing.',
    },
  ];
}
