import { columnValue } from '../mail/mail-words';
import { TemplateError, withValueNames } from '../mail/template';
import { isOperandValue, mailFacts, type Action, type StepValue, type StepValues } from './action';
import { isThis, type Form, type FormPart, type FormValue } from './form';
import type { Audience, Section } from './section-kinds';
import type { Condition } from '../condition/tree';
import type { Catalogue } from '../table/catalogue';
import type { FieldRule, Grant, MaskRule, NamedFilter, PortalDefinition, Sheet, TableNotes } from './definition';
import type { PortalPromise } from './promise';
import { Names } from './names';
import { renamedSheet } from './sheet';
import { specOf, type SectionSpecs } from './section';
import type { Steward } from './steward';

/**
 * The same definition over a catalogue whose names have changed and nothing else: tables, columns and relations stand
 * in the same places of both. What leads nowhere in the old one is left as it is.
 */
export function translate(
  definition: PortalDefinition,
  from: Catalogue,
  to: Catalogue,
  specs: SectionSpecs,
): PortalDefinition {
  return new Translation(from, to, specs).definition(definition);
}

/** Goes through all of a definition; whatever it names is given another name. */
export class Translation extends Names {
  constructor(
    from: Catalogue,
    to: Catalogue,
    private readonly specs: SectionSpecs,
  ) {
    super(from, to);
  }

  private rows<T extends Condition | string | undefined>(table: string, filter: T): T {
    return (typeof filter === 'object' ? this.condition(table, filter as Condition) : filter) as T;
  }

  private grant(table: string, grant: Grant): Grant {
    const whole = structuredClone(grant);
    for (const part of [whole.see, whole.edit, whole.delete, whole.export])
      if (part) part.where = this.rows(table, part.where as Condition);
    for (const part of [whole.create, whole.edit])
      if (part?.keepIn) part.keepIn = this.rows(table, part.keepIn as Condition);
    for (const part of [whole.see, whole.create, whole.edit])
      if (part) part.columns = this.columns(table, part.columns);
    if (whole.edit?.unseen) whole.edit.unseen = this.columns(table, whole.edit.unseen);
    return whole;
  }

  private notes(table: string, notes: TableNotes): TableNotes {
    return {
      ...notes,
      ...(notes.titleColumn === undefined ? {} : { titleColumn: this.column(table, notes.titleColumn) }),
      ...(notes.titleFurther ? { titleFurther: this.columns(table, notes.titleFurther) } : {}),
      ...(notes.address === undefined ? {} : { address: this.column(table, notes.address) }),
      ...(notes.key ? { key: this.columns(table, notes.key) } : {}),
      ...(notes.columns ? { columns: mapKeys(notes.columns, (name) => this.column(table, name)) } : {}),
      ...(notes.rules ? { rules: notes.rules.map((rule) => this.fieldRule(table, rule)) } : {}),
      ...(notes.filters ? { filters: mapValues(notes.filters, (each) => this.filter(table, each)) } : {}),
      ...(notes.relations
        ? {
            relations: notes.relations.map((relation) => ({
              ...relation,
              column: this.column(table, relation.column),
              table: this.table(relation.table),
              targetColumn: this.column(relation.table, relation.targetColumn),
            })),
          }
        : {}),
    };
  }

  private filter(table: string, { name, where }: NamedFilter): NamedFilter {
    // One filter is never another.
    const { named: _named, ...own } = where;
    return { name, where: this.condition(table, own as Condition) };
  }

  private fieldRule(table: string, rule: FieldRule): FieldRule {
    const { columns, when } = rule;
    return {
      ...rule,
      columns: this.columns(table, columns),
      ...(when ? { when: this.condition(table, when) } : {}),
    };
  }

  private audience({ where, ...audience }: Audience): Audience {
    // It is about no table: what is known of the member is all that it names.
    return where === undefined ? audience : { ...audience, where: this.condition('', where) };
  }

  private sheet(table: string, sheet: Sheet): Sheet {
    return renamedSheet(table, sheet, this);
  }

  private section(section: Section): Section {
    const { audience, ...renamed } = specOf(this.specs, section).renamed(section, this);
    return { ...renamed, ...(audience ? { audience: this.audience(audience) } : {}) } as Section;
  }

  private promise(promise: PortalPromise): PortalPromise {
    const table = this.table(promise.table);
    if (promise.says === 'sees exactly') return { ...promise, table };
    return {
      ...promise,
      table,
      ...(promise.column === undefined ? {} : { column: this.column(promise.table, promise.column) }),
      ...(promise.where ? { where: this.condition(promise.table, promise.where) } : {}),
    };
  }

  private action(action: Action): Action {
    const { table, where, keepIn } = action;
    const values = (of: string, given: StepValues): StepValues =>
      Object.fromEntries(
        Object.entries(given).map(([column, value]) => [this.column(of, column), this.stepValue(table, value)]),
      );
    return {
      ...action,
      table: this.table(table),
      ...(where ? { where: this.condition(table, where) } : {}),
      ...(keepIn ? { keepIn: this.rows(table, keepIn) } : {}),
      asks: action.asks.map((ask) => ({
        ...ask,
        table: this.table(ask.table),
        column: this.column(ask.table, ask.column),
        ...(ask.first ? { first: this.operand(table, ask.first) } : {}),
      })),
      steps: action.steps.map((step) => {
        if (step.kind === 'set') return { ...step, values: values(table, step.values) };
        if (step.kind === 'mail') {
          const path = step.mail.to === 'column' ? this.operand(table, { kind: 'column', ...step.mail }).path : [];
          return {
            ...step,
            ...(step.mail.to === 'column' ? { mail: { to: 'column' as const, path } } : {}),
            subject: this.actionMail(table, step.subject),
            text: this.actionMail(table, step.text),
          };
        }
        if (step.kind === 'call')
          return {
            ...step,
            values: mapValues(step.values, (value) => this.stepValue(table, value)),
            ...(step.answers ? { answers: mapKeys(step.answers, (column) => this.column(table, column)) } : {}),
          };
        if (step.kind !== 'make') return step;
        return {
          ...step,
          table: this.table(step.table),
          values: values(step.table, step.values),
          ...(step.keepIn ? { keepIn: this.rows(step.table, step.keepIn) } : {}),
        };
      }),
    };
  }

  private form(form: Form): Form {
    const { table, rules, fills, from = form.table } = form;
    const value = (of: FormValue): FormValue => (isThis(of) ? of : this.operand(from, of));
    const asked = <T extends { when?: Condition; ofRecord?: Condition }>(each: T): T => ({
      ...each,
      ...(each.when ? { when: this.condition(table, each.when) } : {}),
      ...(each.ofRecord ? { ofRecord: this.condition(from, each.ofRecord) } : {}),
    });
    return {
      ...form,
      table: this.table(table),
      ...(form.from === undefined ? {} : { from: this.table(form.from) }),
      steps: form.steps.map((step) => ({
        ...asked(step),
        parts: step.parts.map((part): FormPart => {
          switch (part.kind) {
            case 'words':
              return asked(part);
            case 'fact':
              if (part.of === 'member')
                return { ...asked(part), path: this.operand(from, { kind: 'member', fact: part.path }).fact };
              return { ...asked(part), path: this.operand(from, { kind: 'column', path: part.path }).path };
            case 'lines':
              return {
                ...asked(part),
                table: this.table(part.table),
                by: this.column(part.table, part.by),
                inputs: part.inputs.map((input) => ({ ...input, column: this.column(part.table, input.column) })),
              };
            case 'input':
              return {
                ...asked(part),
                column: this.column(table, part.column),
                ...(part.first ? { first: value(part.first) } : {}),
              };
          }
        }),
      })),
      ...(rules
        ? { rules: rules.map((rule) => ({ ...asked(rule), columns: this.columns(table, rule.columns) })) }
        : {}),
      ...(fills
        ? {
            fills: Object.fromEntries(
              Object.entries(fills).map(([column, fill]) => [this.column(table, column), value(fill)]),
            ),
          }
        : {}),
    };
  }

  private stepValue(table: string, value: StepValue): StepValue {
    return isOperandValue(value) ? this.operand(table, value) : value;
  }

  private steward(steward: Steward): Steward {
    if (steward.does === 'keep a table') return { ...steward, table: this.table(steward.table) };
    const { roster, where } = steward;
    const slice = { roster: this.table(roster), ...(where ? { where: this.condition(roster, where) } : {}) };
    if (steward.does === 'hand over')
      return {
        ...steward,
        ...slice,
        tables: steward.tables.map((each) => ({
          table: this.table(each.table),
          column: this.column(each.table, each.column),
          ...(each.where ? { where: this.condition(each.table, each.where) } : {}),
        })),
      };
    const { sees, adds, changes } = steward;
    return {
      ...steward,
      ...slice,
      sees: this.columns(roster, sees),
      ...(adds ? { adds: this.columns(roster, adds) } : {}),
      ...(changes ? { changes: this.columns(roster, changes) } : {}),
    };
  }

  definition(definition: PortalDefinition): PortalDefinition {
    const tables = mapKeys(
      Object.fromEntries(Object.entries(definition.tables).map(([table, notes]) => [table, this.notes(table, notes)])),
      this.table,
    );
    const access = mapKeys(
      Object.fromEntries(
        Object.entries(definition.access).map(([table, grants]) => [
          table,
          Object.fromEntries(Object.entries(grants).map(([role, grant]) => [role, this.grant(table, grant)])),
        ]),
      ),
      this.table,
    );
    const translated: PortalDefinition = {
      ...definition,
      tables,
      access,
      rosters: definition.rosters.map((roster) => ({
        ...roster,
        table: this.table(roster.table),
        name: this.column(roster.table, roster.name),
        ...(roster.nameFurther === undefined
          ? {}
          : { nameFurther: roster.nameFurther.map((column) => this.column(roster.table, column)) }),
        email: this.column(roster.table, roster.email),
        ...(roster.where === undefined ? {} : { where: this.condition(roster.table, roster.where) }),
        ...(roster.roles === undefined
          ? {}
          : { roles: roster.roles.map((rule) => ({ ...rule, where: this.condition(roster.table, rule.where) })) }),
        ...(roster.organisation === undefined ? {} : { organisation: this.column(roster.table, roster.organisation) }),
      })),
      masks: definition.masks.map((rule): MaskRule =>
        'dataClass' in rule
          ? rule
          : { ...rule, table: this.table(rule.table), column: this.column(rule.table, rule.column) },
      ),
      sheets: mapKeys(
        Object.fromEntries(
          Object.entries(definition.sheets).map(([table, sheet]) => [table, this.sheet(table, sheet)]),
        ),
        this.table,
      ),
      pages: definition.pages.map((page) => ({
        ...page,
        audience: this.audience(page.audience),
        sections: page.sections.map((section) => this.section(section)),
      })),
    };
    if (definition.fences)
      translated.fences = definition.fences.map((fence) => ({
        ...fence,
        table: this.table(fence.table),
        where: this.condition(fence.table, fence.where),
      }));
    if (definition.stamps)
      translated.stamps = definition.stamps.map((stamp) => ({
        ...stamp,
        table: this.table(stamp.table),
        column: this.column(stamp.table, stamp.column),
        value: this.operand(stamp.table, stamp.value),
      }));
    if (definition.lifecycles) {
      translated.lifecycles = definition.lifecycles.map((lifecycle) => ({
        ...lifecycle,
        table: this.table(lifecycle.table),
        column: this.column(lifecycle.table, lifecycle.column),
        moves: lifecycle.moves.map((move) => ({
          ...move,
          needs: this.columns(lifecycle.table, move.needs),
          ...(move.where ? { where: this.condition(lifecycle.table, move.where) } : {}),
        })),
      }));
    }
    if (definition.actions) translated.actions = definition.actions.map((action) => this.action(action));
    if (definition.forms) translated.forms = definition.forms.map((form) => this.form(form));
    if (definition.brought)
      translated.brought = definition.brought.map((brought) => ({ ...brought, table: this.table(brought.table) }));
    if (definition.mails)
      translated.mails = mapValues(definition.mails, ({ subject, text }) => ({
        subject: this.mail(subject),
        text: this.mail(text),
      }));
    if (definition.signUps)
      translated.signUps = definition.signUps.map((signUp) => ({
        ...signUp,
        roster: this.table(signUp.roster),
        asks: this.columns(signUp.roster, signUp.asks),
        fills: signUp.fills.map((fill) => ({ ...fill, column: this.column(signUp.roster, fill.column) })),
      }));
    if (definition.stewards) translated.stewards = definition.stewards.map((steward) => this.steward(steward));
    if (definition.promises) translated.promises = definition.promises.map((promise) => this.promise(promise));
    return translated;
  }

  /** The words of a mail that an action sends, with the columns of its record that stand in them. */
  private actionMail(table: string, text: string): string {
    try {
      return withValueNames(text, (value) =>
        mailFacts.some((fact) => fact === value) ? value : this.path(table, value),
      );
    } catch (error) {
      if (error instanceof TemplateError) return text;
      throw error;
    }
  }

  /** The words of a mail, with the columns that stand in them; words that can't be read stay as they are. */
  private mail(text: string): string {
    try {
      return withValueNames(text, (value) => {
        const at = columnValue(value);
        return at ? `${this.table(at.table)}.${this.column(at.table, at.column)}` : value;
      });
    } catch (error) {
      if (error instanceof TemplateError) return text;
      throw error;
    }
  }
}

function mapValues<T>(record: Record<string, T>, change: (value: T) => T): Record<string, T> {
  return Object.fromEntries(Object.entries(record).map(([key, value]) => [key, change(value)]));
}

function mapKeys<T>(record: Record<string, T>, name: (key: string) => string): Record<string, T> {
  return Object.fromEntries(Object.entries(record).map(([key, value]) => [name(key), value]));
}
