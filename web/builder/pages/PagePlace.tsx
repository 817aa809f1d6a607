import type { Page } from '../../../core/definition/definition';
import { pageIcons } from '../../../core/definition/page-icons';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';

/** How a page stands among the pages: with which icon, or not at all. */
export function PagePlace({
  page,
  onChange,
}: {
  page: Page;
  onChange: (label: string, recipe: (page: Page) => void) => Promise<string | null>;
}) {
  return (
    <div className="flex flex-wrap items-end gap-x-6 gap-y-2">
      <Field label="Icon among the pages">
        {(ids) => (
          <Select
            {...ids}
            className="w-40"
            value={page.icon ?? ''}
            onPick={(picked) =>
              void onChange(`Choose the icon of ${page.title}`, (next) => {
                const icon = pageIcons.find((each) => each === picked);
                if (icon) next.icon = icon;
                else delete next.icon;
              })
            }
          >
            <option value="">none</option>
            {pageIcons.map((icon) => (
              <option key={icon} value={icon}>
                {icon}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <label className="inline-flex min-h-9 items-center gap-2">
        <input
          type="checkbox"
          checked={page.unlisted !== true}
          onChange={(event) => {
            const isListed = event.target.checked;
            void onChange(
              `${isListed ? 'Put' : 'Take'} ${page.title} ${isListed ? 'among' : 'off'} the pages`,
              (next) => {
                if (isListed) delete next.unlisted;
                else next.unlisted = true;
              },
            );
          }}
        />{' '}
        Stands among the pages; else it is only led to
      </label>
    </div>
  );
}
