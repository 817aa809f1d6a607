import { listOf } from '../../test/pages';
import { when } from '../../test/wells';
import type { GroupedBy } from '../../sections/chart/spec';
import type { FigureMeasure } from '../definition/figure-measures';
import type { Draft } from './mistakes.fixture';

const drawn = { id: 'deep', title: 'Depths', intro: '', audience: { roles: ['owner'] } };
const drawing = {
  kind: 'chart' as const,
  id: 'chart',
  title: 'Chart',
  table: 'wells',
  form: 'bars' as const,
  measure: 'count' as FigureMeasure,
  by: { column: 'state' } as GroupedBy,
  where: 'every row' as const,
};

const buttonOf = (action: string) => ({
  kind: 'buttons' as const,
  id: 'ways',
  buttons: [{ label: 'Press me', to: { action } }],
});

/** Mistakes in pages and in what is shown around them, with the words that tell what is meant. */
export const toldOfPages: [string, RegExp, (d: Draft) => void][] = [
  [
    'page column nobody sees',
    /Depths lists wells.owner.name, which none of the roles that it is for sees/,
    (d) => {
      d.pages = [
        {
          id: 'deep',
          title: 'Depths',
          intro: '',
          audience: { roles: ['owner'] },
          sections: [listOf('wells', ['code', 'owner.name'])],
        },
      ];
    },
  ],
  [
    'section does not work',
    /Chart on Depths reckons the sum of state, which is /,
    (d) => {
      d.pages = [{ ...drawn, sections: [{ ...drawing, measure: 'sum', column: 'state' }] }];
    },
  ],
  [
    'section does not work',
    /Chart on Depths puts state in groups by month, and it is /,
    (d) => {
      d.pages = [{ ...drawn, sections: [{ ...drawing, by: { column: 'state', step: 'month' } }] }];
    },
  ],
  [
    'section does not work',
    /“Press me” on Depths does an action that is gone/,
    (d) => {
      d.pages = [{ ...drawn, sections: [buttonOf('gone')] }];
    },
  ],
  [
    'section does not work',
    /“Press me” on Depths does “Rest”, which is no action with people/,
    (d) => {
      const steps = [{ kind: 'set' as const, values: { state: { kind: 'text' as const, text: 'resting' } } }];
      d.actions = [{ id: 'rest', name: 'Rest', table: 'wells', roles: ['owner'], asks: [], steps }];
      d.pages = [{ ...drawn, sections: [buttonOf('rest')] }];
    },
  ],
  [
    'page column nobody sees',
    /A record of wells shows owner.name, which none of the roles that it is for sees/,
    (d) => {
      d.sheets = { wells: { columns: ['code', 'owner.name'] } };
    },
  ],
  [
    'audience does not work',
    /Who gets The shaft on a record of wells can't be told/,
    (d) => {
      const audience = { roles: 'everyone' as const, where: when(":member.owners.nothing = 'x'") };
      d.sheets = {
        wells: { columns: ['code'], groups: [{ id: 'g', title: 'The shaft', columns: ['code'], audience }] },
      };
    },
  ],
  [
    'section does not work',
    /wells on Depths filters by wells.depth_m, which Owner doesn't see whole/,
    (d) => {
      d.pages = [{ ...drawn, sections: [listOf('wells', ['code'], { where: when('depth_m > 5') })] }];
    },
  ],
  [
    'section does not work',
    /The tab “Deep” on Depths filters by wells.depth_m, which Owner doesn't see whole/,
    (d) => {
      const tabs = [{ id: 'deep', name: 'Deep', where: when('depth_m > 5') }];
      d.pages = [{ ...drawn, sections: [listOf('wells', ['code'], { tabs })] }];
    },
  ],
  [
    'section does not work',
    /wells on Depths has a filter that can't be used: there is no column depth in wells/,
    (d) => {
      d.pages = [{ ...drawn, sections: [listOf('wells', ['code'], { where: when('depth > 5') })] }];
    },
  ],
  [
    'face does not work',
    /https:\/\/www.example.org may show the portal, of which nothing is public/,
    (d) => {
      d.portal.embeddedIn = ['https://www.example.org'];
    },
  ],
  [
    'page shows nothing',
    /Depths lists wells.depth_m, which Owner doesn't see/,
    (d) => {
      d.access.wells!.desk = { see: { where: when('owner_id = :member.owners.id'), columns: ['depth_m'] } };
      d.pages = [
        {
          id: 'deep',
          title: 'Depths',
          intro: '',
          audience: { roles: ['owner', 'desk'] },
          sections: [listOf('wells', ['depth_m'])],
        },
      ];
    },
  ],
];
