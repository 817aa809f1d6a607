import type { SignUp } from '../core/definition/sign-up';
import type { Steward } from '../core/definition/steward';
import { myParish, when } from './access';

const looksAfter = {
  does: 'look after people',
  may: ['suspend', 'invite', 'end sessions', 'send password links'],
} as const;

/** Each looks after a part of the people: nobody of the programme has to be asked for it. */
export const demoStewards: Steward[] = [
  {
    ...looksAfter,
    id: 'parish-owners',
    role: 'steward',
    roster: 'owners',
    where: when(`parish = ${myParish}`),
    roles: ['well_owner'],
    sees: ['phone', 'postal_address', 'contact_by'],
    adds: ['name', 'email', 'phone', 'postal_address', 'contact_by'],
    changes: ['name', 'email', 'phone', 'postal_address', 'contact_by'],
    may: [...looksAfter.may],
  },
  { id: 'weekly-plan', role: 'steward', does: 'keep a table', table: 'visits' },
  {
    ...looksAfter,
    id: 'lab-couriers',
    role: 'lab_lead',
    roster: 'lab_staff',
    where: when('lab_id = :member.lab_staff.lab_id'),
    roles: ['lab_courier'],
    sees: ['kind'],
    adds: ['name', 'email'],
    changes: ['name', 'email'],
    may: [...looksAfter.may],
  },
  {
    id: 'visits-of-samplers',
    role: 'desk',
    does: 'hand over',
    roster: 'samplers',
    tables: [{ table: 'visits', column: 'sampler_id', where: when("state IN ('asked', 'planned')") }],
  },
];

/** The desk looks at whoever comes by a link that a parish hands out. */
export const demoSignUps: SignUp[] = [
  {
    id: 'harrow-end',
    name: 'For well owners of Harrow End',
    roster: 'owners',
    asks: ['name', 'phone', 'postal_address', 'contact_by'],
    fills: [{ column: 'parish', value: { kind: 'text', text: 'Harrow End' } }],
    uses: 50,
    approver: 'desk',
  },
];
