import Joi from 'joi';
import { waysToOpen, type WayToOpen } from '../../core/definition/section-kinds';
import { sheetOf } from '../../core/definition/definition';
import { columnInfos, titlesBeside, type ColumnInfo } from '../../server/columns/column-info';
import { columnInfo } from '../../server/columns/column-answers';
import { across, at, list } from '../../server/gate/gate';
import { listOf, said, whole, yesNo } from '../../server/http/answers';
import { hangsOn } from '../../server/records/linked-lists';
import { sheetAnswer, sheetTold, type SheetTold } from '../../server/records/sheet-told';
import { questionOf } from '../../server/records/record-question';
import { plainLabel } from '../../core/table/catalogue';
import { printPath } from '../../core/definition/path';
import { actsOf, actsOffered, pathsOfActs } from '../acts-of';
import { reached } from '../reached';
import type { SectionServe } from '../serve';
import type { CardsSection } from './spec';

/** Cards as a person gets them. Of a table of which they see nothing they keep their place, without columns. */
export interface CardsTold extends SheetTold {
  table: string;
  label: string;
  columns: ColumnInfo[];
  /** Null where there is none, or this person doesn't see it. */
  picture: ColumnInfo | null;
  /** Whether pictures that hang on records stand on their cards. */
  pictureOfFiles: boolean;
  /** How many stand side by side where there is room. */
  cardsAcross: number;
  opens: 'beside' | WayToOpen;
  /** Actions whose buttons stand on its cards. */
  acts: string[];
  /** True while the source that holds its records can't be reached. */
  away?: true;
}

declare module '../serve' {
  interface SectionTold {
    cards: CardsTold;
  }
}

export const serve: SectionServe<CardsSection, CardsTold> = {
  tell: async (visit, section) => {
    const { opens, table, columns, picture, pictureOfFiles = false, across: beside } = section;
    const there = await reached(visit, table);
    const infos = async (paths: string[]) => (there ? columnInfos(there, table, paths) : []);
    return {
      ...(there ? {} : { away: true as const }),
      table,
      label: visit.definition.tables[table]?.label ?? plainLabel(table),
      columns: await infos(columns),
      picture: picture === undefined ? null : ((await infos([picture]))[0] ?? null),
      pictureOfFiles: pictureOfFiles && there !== null && hangsOn(there, table, null).includes('files'),
      cardsAcross: beside,
      opens: opens ?? 'beside',
      acts: there ? actsOffered(there, section) : [],
      ...(await sheetTold(visit, there, table, sheetOf(visit.definition, table), columns)),
    };
  },
  told: {
    table: said,
    label: said,
    columns: listOf(columnInfo),
    picture: columnInfo.allow(null),
    pictureOfFiles: yesNo,
    cardsAcross: whole,
    opens: Joi.valid('beside', ...waysToOpen),
    acts: listOf(said),
    ...sheetAnswer,
    away: yesNo.optional(),
  },
  list: async (asked, section, query) => {
    const visit = await at(asked, section.table);
    const columns = [...section.columns, ...(section.picture ? [section.picture] : [])];
    const question = questionOf(visit, section.table, { ...query, columns: undefined }, { ...section, columns });
    const titles = await titlesBeside(visit, section.table, question.columns);
    const all = [...question.columns, ...titles, ...pathsOfActs(visit, section)];
    const read = [...new Map(all.map((path) => [printPath(path), path])).values()];
    const answer = await across(visit, section.table, read, (own) =>
      list(visit.source, visit, section.table, { ...question, columns: own }),
    );
    const acts = actsOf(visit, section, answer.records);
    return acts ? { ...answer, acts } : answer;
  },
};
