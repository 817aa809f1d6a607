import { useState } from 'react';
import type { Sheet, SheetGroup } from '../../../core/definition/definition';
import { freeId } from '../../../core/definition/free-id';
import type { ForRoles } from '../../../core/definition/section-kinds';
import { outsideGroups, placed, withGroups } from '../../../core/definition/sheet';
import { counted } from '../../../core/text/counted';
import type { Table } from '../../../core/table/catalogue';
import { Accordion, AccordionItem } from '../../ui/Accordion';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { ColumnOrder } from '../columns/ColumnOrder';
import { AudienceChoice } from './AudienceChoice';

const mostGroups = 20;

/** The columns of a record's sheet: those that stand first, and groups under headings, each with whom it is for. */
export function SheetColumns({
  title,
  table,
  visible,
  of,
  sheet,
  onChange,
}: {
  title: string;
  table: Table;
  visible: string[];
  /** Who may get it at all. */
  of: ForRoles;
  sheet: Sheet;
  onChange: (sheet: Sheet) => Promise<string | null>;
}) {
  const [open, setOpen] = useState('');
  const groups = sheet.groups ?? [];
  const add = () => {
    const group = { id: freeId('group', groups), title: 'New group', columns: [] };
    void onChange(withGroups(sheet, [...groups, group])).then(() => setOpen(group.id));
  };
  const turned = (across: 2 | undefined): Sheet => {
    const { across: _, ...rest } = sheet;
    return across ? { ...rest, across } : rest;
  };
  return (
    <div className="grid gap-2">
      <ColumnOrder
        title={title}
        table={table}
        visible={visible}
        chosen={outsideGroups(sheet)}
        onChange={(columns) => void onChange(placed(sheet, null, columns))}
      />
      <Across of={title} across={sheet.across} onChange={(across) => void onChange(turned(across))} />
      <Accordion open={open} onOpen={setOpen}>
        {groups.map((group, place) => (
          <Group
            key={group.id}
            group={group}
            isFirst={place === 0}
            table={table}
            visible={visible}
            of={of}
            onColumns={(columns) => void onChange(placed(sheet, group.id, columns))}
            onChange={(next) =>
              onChange(
                withGroups(
                  sheet,
                  groups.flatMap((each) => (each === group ? next : each)),
                ),
              )
            }
            onEarlier={() => {
              const next = groups.filter((each) => each !== group);
              next.splice(place - 1, 0, group);
              void onChange(withGroups(sheet, next));
            }}
          />
        ))}
      </Accordion>
      {groups.length < mostGroups && (
        <Button small className="justify-self-start" onClick={add}>
          + group
        </Button>
      )}
    </div>
  );
}

/** One group: its heading, its columns, whom it is for. */
function Group({
  group,
  isFirst,
  table,
  visible,
  of,
  onColumns,
  onChange,
  onEarlier,
}: {
  group: SheetGroup;
  isFirst: boolean;
  table: Table;
  visible: string[];
  of: ForRoles;
  onColumns: (columns: string[]) => void;
  /** With nothing, it is taken out, and its columns stand with the first. */
  onChange: (group: SheetGroup[]) => Promise<string | null>;
  onEarlier: () => void;
}) {
  const { title, columns, across, audience, ...rest } = group;
  const as = (change: Partial<SheetGroup>) => {
    const next = { title, columns, across, audience, ...rest, ...change };
    if (next.across === undefined) delete next.across;
    if (next.audience === undefined) delete next.audience;
    return onChange([next]);
  };
  return (
    <AccordionItem
      id={group.id}
      label={title}
      sentence={
        <>
          <strong>{title}</strong>{' '}
          <span className="text-soft">
            {counted(columns.length, 'column')}
            {across ? ', two beside each other' : ''}
            {audience ? ', for some' : ''}
          </span>
        </>
      }
    >
      <div className="flex flex-wrap items-end gap-2">
        <Field label="Heading">
          {(ids) => (
            <input
              className="field w-60"
              maxLength={60}
              {...ids}
              key={title}
              defaultValue={title}
              onBlur={(event) => {
                const typed = event.target.value.trim();
                if (typed && typed !== title) void as({ title: typed });
                else event.target.value = title;
              }}
            />
          )}
        </Field>
        <Button small disabled={isFirst} aria-label={`Move ${title} earlier`} onClick={onEarlier}>
          Earlier
        </Button>
        <Button small aria-label={`Take out ${title}`} onClick={() => void onChange([])}>
          Take out
        </Button>
      </div>
      <ColumnOrder title={`Under ${title}`} table={table} visible={visible} chosen={columns} onChange={onColumns} />
      <Across of={title} across={across} onChange={(two) => void as({ across: two })} />
      <AudienceChoice
        title="Who gets this group"
        name={`Who gets ${title}`}
        of={of}
        audience={audience}
        onChange={(next) => as({ audience: next })}
      />
    </AccordionItem>
  );
}

function Across({
  of,
  across,
  onChange,
}: {
  of: string;
  across: 2 | undefined;
  onChange: (across: 2 | undefined) => void;
}) {
  return (
    <label className="inline-flex min-h-6 items-center gap-2">
      <input
        type="checkbox"
        aria-label={`Two beside each other: ${of}`}
        checked={across === 2}
        onChange={(event) => onChange(event.target.checked ? 2 : undefined)}
      />{' '}
      Two beside each other, where there is room
    </label>
  );
}
