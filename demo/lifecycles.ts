import type { Lifecycle, Stamp } from '../core/definition/definition';
import { when } from './access';

export const demoStamps: Stamp[] = [
  {
    id: 'planner',
    table: 'visits',
    column: 'planned_by',
    on: 'create',
    value: { kind: 'member', fact: ['id'] },
    to: ['desk', 'steward'],
  },
  // Those who are looked after are of the steward's own parish or lab, without anybody typing it.
  {
    id: 'own-parish',
    table: 'owners',
    column: 'parish',
    on: 'create',
    value: { kind: 'member', fact: ['staff', 'parish'] },
    to: ['steward'],
  },
  {
    id: 'own-lab',
    table: 'lab_staff',
    column: 'lab_id',
    on: 'create',
    value: { kind: 'member', fact: ['lab_staff', 'lab_id'] },
    to: ['lab_lead'],
  },
  {
    id: 'couriers',
    table: 'lab_staff',
    column: 'kind',
    on: 'create',
    value: { kind: 'text', text: 'courier' },
    to: ['lab_lead'],
  },
];

export const demoLifecycles: Lifecycle[] = [
  {
    table: 'visits',
    column: 'state',
    start: 'asked',
    moves: [
      {
        id: 'plan',
        name: 'Plan',
        from: ['asked'],
        to: 'planned',
        roles: ['desk', 'steward'],
        needs: ['planned_for', 'sampler_id'],
      },
      {
        id: 'sample',
        name: 'Sampled',
        from: ['planned'],
        to: 'sampled',
        roles: ['sampler'],
        where: when('sampler_id = :member.samplers.id'),
        needs: ['seal_number'],
      },
      {
        id: 'hand-over',
        name: 'Handed to the lab',
        from: ['sampled'],
        to: 'at lab',
        roles: ['sampler', 'desk'],
        needs: [],
      },
      { id: 'report', name: 'Reported', from: ['at lab'], to: 'reported', roles: ['desk'], needs: [] },
      { id: 'cancel', name: 'Call off', from: ['asked', 'planned'], to: 'cancelled', roles: ['desk'], needs: [] },
    ],
  },
  {
    table: 'results',
    column: 'state',
    start: 'draft',
    moves: [
      { id: 'submit', name: 'Submit', from: ['draft'], to: 'submitted', roles: ['lab_chemist'], needs: ['unit'] },
      {
        id: 'approve',
        name: 'Approve',
        from: ['draft', 'submitted'],
        to: 'approved',
        roles: ['desk'],
        needs: [],
      },
      { id: 'sign', name: 'Sign', from: ['submitted'], to: 'approved', roles: ['lab_lead'], needs: [] },
      { id: 'send-back', name: 'Send back', from: ['submitted'], to: 'draft', roles: ['lab_lead'], needs: ['remark'] },
    ],
  },
];
