import { useEffect, useRef, type RefObject } from 'react';
import { ArrowDown, ArrowUp } from 'lucide-react';
import type { Page } from '../../../core/definition/definition';
import { counted } from '../../../core/text/counted';
import { refreshPeriods, sectionWidths, type Section, type SectionWidth } from '../../../core/definition/section-kinds';
import { sectionEdits } from '../../../sections/edit';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { Button } from '../../ui/Button';
import { AudienceChoice } from './AudienceChoice';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';

/** Where a section is led to by the address, its heading gets the focus, once. */
function useChosen(section: string): RefObject<HTMLHeadingElement | null> {
  const heading = useRef<HTMLHeadingElement>(null);
  const [params, setAddress] = useAddress();
  const isChosen = params.get('section') === section;
  useEffect(() => {
    if (!isChosen) return;
    heading.current?.focus();
    setAddress((address) => address.delete('section'));
  }, [isChosen, setAddress]);
  return heading;
}

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
  const heading = useChosen(section.id);
  return (
    <section aria-label={called} className="grid gap-4 rounded-stone border border-line p-4">
      <div className="flex items-center gap-2">
        <h2 ref={heading} tabIndex={-1} className="mr-auto scroll-mt-20">
          {called}
        </h2>
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
        {editing.ofTable && (
          <Field label="Looked up again" hint="While somebody looks at it">
            {(ids) => (
              <Select
                {...ids}
                value={String(section.refresh ?? '')}
                onPick={(picked) =>
                  void onChange(`Say how often ${called} is looked up`, (next) => {
                    const period = refreshPeriods.find((each) => String(each) === picked);
                    if (period) next.refresh = period;
                    else delete next.refresh;
                  })
                }
              >
                <option value="">after a change of their own</option>
                {refreshPeriods.map((seconds) => (
                  <option key={seconds} value={seconds}>
                    {seconds < 60 ? `every ${seconds} seconds` : `every ${counted(seconds / 60, 'minute')}`}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        )}
      </div>
      <AudienceChoice
        title="Who gets it here"
        name={`Who gets ${called}`}
        of={page.audience.roles}
        audience={section.audience}
        onChange={(audience) =>
          onChange(`Choose who gets ${called}`, (next) => {
            if (audience) next.audience = audience;
            else delete next.audience;
          })
        }
      />
      <Edit page={page} section={section} visible={visible} onChange={onChange} />
    </section>
  );
}
