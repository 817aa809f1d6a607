import { ArrowDown, ArrowUp } from 'lucide-react';
import type { Page } from '../../../core/definition/definition';
import { sectionWidths, type Section, type SectionWidth } from '../../../core/definition/section-kinds';
import { sectionEdits } from '../../../sections/edit';
import { useBench } from '../bench/bench-context';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';

/** A section of a page: what it is called and how wide it is, its place among the others, and what its kind sets. */
export function SectionEditor({
  page,
  section,
  visible,
  onMove,
  onChange,
  onRemove,
}: {
  page: Page;
  section: Section;
  visible: (table: string) => string[];
  onMove: (by: 1 | -1) => void;
  onChange: (label: string, recipe: (section: Section) => void) => Promise<string | null>;
  onRemove: () => void;
}) {
  const editing = sectionEdits[section.kind]!;
  const Edit = editing.default;
  const called = editing.called(section, useBench().draft);
  const at = page.sections.indexOf(section);
  return (
    <section aria-label={called} className="grid gap-4 rounded-stone border border-line p-4">
      <div className="flex items-center gap-2">
        <h2 className="mr-auto">{called}</h2>
        <Button small weight="quiet" aria-label={`Move ${called} up`} disabled={at === 0} onClick={() => onMove(-1)}>
          <ArrowUp size={15} aria-hidden />
        </Button>
        <Button
          small
          weight="quiet"
          aria-label={`Move ${called} down`}
          disabled={at === page.sections.length - 1}
          onClick={() => onMove(1)}
        >
          <ArrowDown size={15} aria-hidden />
        </Button>
        <Button small onClick={onRemove}>
          Take off
        </Button>
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <Field label="Its title on the page" hint="Empty shows none">
          {(ids) => (
            <input
              className="field w-72"
              maxLength={120}
              {...ids}
              key={section.title ?? ''}
              defaultValue={section.title ?? ''}
              onBlur={(event) => {
                const title = event.target.value.trim();
                if (title === (section.title ?? '')) return;
                void onChange(`Title ${called}`, (next) => {
                  if (title === '') delete next.title;
                  else next.title = title;
                });
              }}
            />
          )}
        </Field>
        <Field label="Width" hint="Where there is room">
          {(ids) => (
            <Select
              {...ids}
              value={section.width ?? 'full'}
              onPick={(picked) =>
                void onChange(`Set the width of ${called}`, (next) => {
                  if (picked === 'full') delete next.width;
                  else next.width = picked as SectionWidth;
                })
              }
            >
              <option value="full">full width</option>
              {sectionWidths.toReversed().map((each) => (
                <option key={each} value={each}>
                  {each}
                </option>
              ))}
            </Select>
          )}
        </Field>
      </div>
      <AudienceChoice page={page} section={section} called={called} onChange={onChange} />
      <Edit page={page} section={section} visible={visible} onChange={onChange} />
    </section>
  );
}

/** Who gets it of those who get the page. */
function AudienceChoice({
  page,
  section,
  called,
  onChange,
}: {
  page: Page;
  section: Section;
  called: string;
  onChange: (label: string, recipe: (section: Section) => void) => Promise<string | null>;
}) {
  const { draft } = useBench();
  const { roles: onPage } = page.audience;
  const roles = draft.roles.filter(({ id }) => onPage === 'everyone' || onPage.includes(id));
  const { audience } = section;
  if (roles.length < 2 && !audience) return null;
  const gets = (id: string) => !audience || audience.roles === 'everyone' || audience.roles.includes(id);
  return (
    <fieldset>
      <legend className="text-sm font-semibold">Who gets it here</legend>
      <div className="flex flex-wrap gap-x-4">
        {roles.map(({ id, name }) => (
          <label key={id} className="inline-flex min-h-7 items-center gap-2 text-sm">
            <input
              type="checkbox"
              checked={gets(id)}
              onChange={(event) => {
                const given = event.target.checked;
                const next = roles.map((role) => role.id).filter((each) => (each === id ? given : gets(each)));
                void onChange(`Choose who gets ${called}`, (changed) => {
                  const where = changed.audience?.where;
                  if (next.length === roles.length && !where) delete changed.audience;
                  else changed.audience = { roles: next, ...(where ? { where } : {}) };
                });
              }}
            />{' '}
            {name}
          </label>
        ))}
      </div>
      {audience?.where && (
        <p className="text-sm text-soft">And only those for whom a condition holds, set in the file.</p>
      )}
    </fieldset>
  );
}
