import { Link } from 'react-router';
import { freeId } from '../../../core/definition/free-id';
import type { Steward } from '../../../core/definition/steward';
import type { Section } from '../../../core/definition/section-kinds';
import { Button } from '../../ui/Button';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';

const kinds: Record<Steward['does'], 'people' | 'bring' | 'handover'> = {
  'look after people': 'people',
  'keep a table': 'bring',
  'hand over': 'handover',
};

/** Where in the portal the steward does it; or a way to make that page. */
export function StewardPage({ steward }: { steward: Steward }) {
  const { draft, edit, to } = useBench();
  const names = useNames();
  const kind = kinds[steward.does];
  const page = draft.pages.find(({ sections }) =>
    sections.some((section) => section.kind === kind && 'steward' in section && section.steward === steward.id),
  );
  if (page)
    return (
      <p className="text-sm text-soft">
        They do it on the page{' '}
        <Link className="underline" to={to('pages', page.id)}>
          {page.title}
        </Link>
        .
      </p>
    );
  const title = {
    'look after people': () => `Looking after ${names.tableInText((steward as { roster: string }).roster)}`,
    'keep a table': () => `Keeping ${names.tableInText((steward as { table: string }).table)}`,
    'hand over': () => 'Handing over',
  }[steward.does]();
  const make = () =>
    void edit(`Make the page ${title}`, (next) => {
      const section = { id: freeId(kind, []), kind, steward: steward.id } as Section;
      next.pages.push({
        id: freeId(title, next.pages),
        title,
        intro: '',
        audience: { roles: [steward.role] },
        sections: [section],
      });
    });
  return (
    <p className="flex flex-wrap items-center gap-3">
      No page has the place to do it yet.
      <Button small onClick={make}>
        Make the page “{title}”
      </Button>
    </p>
  );
}
