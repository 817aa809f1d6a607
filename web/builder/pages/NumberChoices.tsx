import type { ReactNode } from 'react';
import type { Page } from '../../../core/definition/definition';
import { figureMeasures, fitsMeasure, type FigureMeasure } from '../../../core/definition/figure-measures';
import type { Table } from '../../../core/table/catalogue';
import { listsOf } from '../../../sections/followed';
import { useNames } from '../bench/names';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';

const words: Record<FigureMeasure, string> = {
  count: 'how many there are',
  sum: 'the sum of',
  average: 'the average of',
  minimum: 'the least of',
  maximum: 'the most of',
  distinct: 'how many different values has',
};
/** What sections of numbers have in common. */
interface Numbers {
  table: string;
  measure: FigureMeasure;
  column?: string;
  follows?: string;
  smallestGroup?: number;
}

/** What is reckoned, of which column, over which list, and from how many records on; what a kind has more between. */
export function NumberChoices({
  page,
  table,
  seen,
  section,
  change,
  children,
}: {
  page: Page;
  table: Table;
  /** Columns that somebody who gets it sees. */
  seen: string[];
  section: Numbers;
  change: (recipe: (next: Numbers) => void) => void;
  children?: ReactNode;
}) {
  return (
    <>
      <MeasureChoice
        table={table}
        seen={seen}
        section={section}
        onChange={(measure) =>
          change((next) => {
            delete next.column;
            Object.assign(next, measure);
          })
        }
      />
      {children}
      <FollowsChoice
        page={page}
        section={section}
        onChange={(list) =>
          change((next) => {
            if (list) next.follows = list;
            else delete next.follows;
          })
        }
      />
      <SmallestGroup
        value={section.smallestGroup}
        onChange={(least) =>
          change((next) => {
            if (least) next.smallestGroup = least;
            else delete next.smallestGroup;
          })
        }
      />
    </>
  );
}

/** What is reckoned, and of which column. */
function MeasureChoice({
  table,
  seen,
  section: { measure, column },
  onChange,
}: {
  table: Table;
  /** Columns that somebody who gets it sees. */
  seen: string[];
  section: { measure: FigureMeasure; column?: string };
  onChange: (next: { measure: FigureMeasure; column?: string }) => void;
}) {
  const names = useNames();
  const columns = (of: FigureMeasure) =>
    table.columns.filter((each) => seen.includes(each.name) && fitsMeasure(of, each)).map(({ name }) => name);
  const pick = (next: FigureMeasure) => {
    if (next === 'count') onChange({ measure: next });
    else {
      const fitting = columns(next);
      onChange({ measure: next, column: column !== undefined && fitting.includes(column) ? column : fitting[0]! });
    }
  };
  return (
    <>
      <Field label="It says">
        {(ids) => (
          <Select {...ids} value={measure} onPick={(picked) => pick(picked as FigureMeasure)}>
            {figureMeasures.map((each) => (
              <option key={each} value={each} disabled={each !== 'count' && columns(each).length === 0}>
                {words[each]}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {column !== undefined && (
        <Field label="Column">
          {(ids) => (
            <Select {...ids} value={column} onPick={(picked) => onChange({ measure, column: picked })}>
              {[...new Set([...columns(measure), column])].map((each) => (
                <option key={each} value={each}>
                  {names.column(table.name, each)}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
    </>
  );
}

/** Which list of the page the numbers go with; nothing where none is of the table. */
function FollowsChoice({
  page,
  section: { table, follows },
  onChange,
}: {
  page: Page;
  section: { table: string; follows?: string };
  onChange: (list: string | null) => void;
}) {
  const lists = listsOf(page, table);
  if (lists.length === 0 && follows === undefined) return null;
  return (
    <Field label="Goes with">
      {(ids) => (
        <Select {...ids} value={follows ?? ''} onPick={(picked) => onChange(picked === '' ? null : picked)}>
          <option value="">nothing: all that the person sees</option>
          {lists.map(({ id, title }) => (
            <option key={id} value={id}>
              {title ? `the list ${title}` : 'the list'}, as it is filtered
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
}

/** From how many records on something is told. */
function SmallestGroup({ value, onChange }: { value: number | undefined; onChange: (least: number | null) => void }) {
  return (
    <Field label="Told from so many records on" hint="Empty tells all">
      {(ids) => (
        <input
          className="field w-28"
          type="number"
          min={2}
          {...ids}
          key={value ?? 0}
          defaultValue={value ?? ''}
          onBlur={(event) => {
            const least = Math.trunc(Number(event.target.value));
            if ((least >= 2 ? least : undefined) !== value) onChange(least >= 2 ? least : null);
          }}
        />
      )}
    </Field>
  );
}
