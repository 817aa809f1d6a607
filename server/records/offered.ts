import type { Person } from '../../core/access/person';
import type { OpenRecord } from '../gate/gate';

/** Whoever looks, and whether a builder does so as them. */
interface Looking {
  person: Pick<Person, 'kind'>;
  seenBy?: boolean;
}

/** Whether writing is offered: at the public pages none is taken, whatever visitors are granted. */
export const offersWrites = ({ person }: Looking): boolean => person.kind !== 'visitor';

/** A record with what is offered of what may be done with it; a builder who looks as a visitor tries all of it. */
export const asOffered = (visit: Looking, record: OpenRecord): OpenRecord =>
  offersWrites(visit) || visit.seenBy
    ? record
    : { ...record, editable: [], replaceable: [], deletable: false, moves: [], actions: [] };
