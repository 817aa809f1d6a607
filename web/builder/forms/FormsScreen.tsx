import { useNavigate } from 'react-router';
import { freeId } from '../../../core/definition/free-id';
import { findTable } from '../../../core/table/catalogue';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { Rule, RuleList, useOpenRule } from '../access/RuleList';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { StageHead } from '../bench/StageFrame';
import { FormEdit } from './FormEdit';
import { formOf, makersOf } from './form-edits';

/** The portal's forms. */
export default function FormsScreen() {
  const { draft, catalogue, edit, to } = useBench();
  const names = useNames();
  const navigate = useNavigate();
  const { setOpen } = useOpenRule();
  const all = draft.forms ?? [];
  const offered = catalogue.tables.flatMap((table) =>
    [false, true].flatMap((changes) =>
      makersOf(draft, table.name, changes).map((role) => ({
        key: `${changes ? 'change' : 'make'} ${role} ${table.name}`,
        table,
        role,
        changes,
      })),
    ),
  );
  const add = (key: string) => {
    const found = offered.find((each) => each.key === key);
    if (!found) return;
    const { table, changes } = found;
    const made = formOf(draft, table, `${changes ? 'Change' : 'New'} ${names.tableInText(table.name)}`, found);
    void edit(`Make a form of ${names.tableInText(table.name)}`, (next) => {
      (next.forms ??= []).push(made);
    }).then((problem) => problem === null && setOpen(made.id));
  };
  const putOn = (form: string, page: string) =>
    void edit(`Put a form on a page`, (next) => {
      const sections = next.pages.find(({ id }) => id === page)?.sections;
      sections?.push({ id: freeId('form', sections), kind: 'form', form });
    }).then((problem) => problem === null && navigate(to('pages', page)));
  return (
    <>
      <StageHead title="Forms" />
      <div className="grid gap-4 p-4">
        <p className="max-w-160 text-soft">
          A form lays out what is asked for a new record, or to change one, in steps. It gives no right: whoever sends
          it must be allowed to make such a record or to change this one, and what they may not fill is not asked.
        </p>
        {all.length > 0 && (
          <RuleList>
            {all.map((form) => {
              const table = findTable(catalogue, form.table);
              const pages = draft.pages.filter(({ sections }) =>
                sections.some((section) => section.kind === 'form' && section.form === form.id),
              );
              return (
                <Rule
                  key={form.id}
                  id={form.id}
                  kind="Form"
                  sentence={
                    <>
                      <strong>{form.title}</strong>, {form.changes ? 'changes' : 'makes'} a record of{' '}
                      {names.tableInText(form.table)}
                      {pages.length > 0 ? `, on ${pages.map(({ title }) => title).join(', ')}` : ', on no page yet'}
                    </>
                  }
                  loses={`“${form.title}” can't be sent any more. What was sent stays.`}
                  onRemove={() =>
                    void edit(`Remove the form ${form.title}`, (next) => {
                      next.forms = next.forms!.filter(({ id }) => id !== form.id);
                      if (next.forms.length === 0) delete next.forms;
                      for (const page of next.pages)
                        page.sections = page.sections.filter(
                          (section) => section.kind !== 'form' || section.form !== form.id,
                        );
                    })
                  }
                >
                  {table ? (
                    <div className="grid gap-4">
                      <FormEdit form={form} table={table} />
                      <Select
                        aria-label={`Put ${form.title} on a page`}
                        className="w-auto justify-self-start"
                        value=""
                        onPick={(page) => page && putOn(form.id, page)}
                      >
                        <option value="">put it on a page …</option>
                        {draft.pages.map(({ id, title }) => (
                          <option key={id} value={id}>
                            {title}
                          </option>
                        ))}
                      </Select>
                    </div>
                  ) : (
                    <Notice kind="fault">There is no table {form.table} any more.</Notice>
                  )}
                </Rule>
              );
            })}
          </RuleList>
        )}
        {offered.length === 0 ? (
          <Notice kind="say">
            No role may make or change records yet. Let one under Access, and make a form of what it may fill.
          </Notice>
        ) : (
          <Select className="max-w-96" aria-label="Make a form" value="" onPick={add}>
            <option value="">make a form of what a role may fill …</option>
            {offered.map(({ key, table, role, changes }) => (
              <option key={key} value={key}>
                {changes ? 'change ' : ''}
                {changes ? names.tableInText(table.name) : names.table(table.name)}, as {names.role(role)}
              </option>
            ))}
          </Select>
        )}
      </div>
    </>
  );
}
