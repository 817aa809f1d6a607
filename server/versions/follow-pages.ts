import type { Transaction } from 'sequelize';
import type { Page, PortalDefinition } from '../../core/definition/definition';
import { KeptView } from '../store/kept-view-model';

/** What stands on a page, by names that never change. */
const standsOn = ({ sections }: Page): string => JSON.stringify(sections.map(({ id, kind }) => [id, kind]));

/**
 * The pages that have another address after a change: of those that are gone and those that are new, the two that alone
 * have the same sections.
 */
function movedPages(before: Pick<PortalDefinition, 'pages'>, after: Pick<PortalDefinition, 'pages'>) {
  const without = (pages: Page[], others: Page[]) =>
    pages.filter(({ id, sections }) => sections.length > 0 && !others.some((other) => other.id === id));
  const [gone, made] = [without(before.pages, after.pages), without(after.pages, before.pages)];
  const alike = (pages: Page[], page: Page) => pages.filter((each) => standsOn(each) === standsOn(page));
  return gone.flatMap((page) => {
    const [to, ...others] = alike(made, page);
    return to && others.length === 0 && alike(gone, page).length === 1 ? [{ from: page.id, to: to.id }] : [];
  });
}

/** Views that members keep of lists go along where their page has another address in the version that they get now. */
export async function followPages(
  portalId: number,
  before: string | undefined,
  after: string,
  transaction: Transaction,
): Promise<void> {
  if (before === undefined) return;
  const moved = movedPages(JSON.parse(before) as PortalDefinition, JSON.parse(after) as PortalDefinition);
  for (const { from, to } of moved)
    await KeptView.update({ page: to }, { where: { portalId, page: from }, transaction });
}
