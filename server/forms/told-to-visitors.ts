import type { Form } from '../../core/definition/form';
import type { PortalDefinition } from '../../core/definition/definition';
import { viewSql, type PlacedVisit } from '../gate/gate';
import { toldForm, type FormTold } from './form-told';

interface Told {
  form: Form;
  catalogue: PlacedVisit['catalogue'];
  roles: string;
  standIn: PlacedVisit['standIn'];
  now: string;
  told: Promise<FormTold | null>;
}

const lastTold = new WeakMap<PortalDefinition, Map<string, Told>>();

/**
 * As `toldForm`, of one that is opened with no record and leads nowhere. All who have not signed in are told the same
 * within a second of the portal's clock, which is all that it goes by beside the definition, the catalogue and their
 * roles: when many send one form, it is worked out once a second.
 */
export function toldPlainly(visit: PlacedVisit, form: Form): Promise<FormTold | null> {
  const { definition, catalogue, person, standIn } = visit;
  if (person.kind !== 'visitor') return toldForm(visit, form, new Set());
  const ofDefinition = lastTold.get(definition) ?? new Map<string, Told>();
  lastTold.set(definition, ofDefinition);
  const [roles, { now }] = [person.roles.join('\n'), viewSql(visit).context];
  const last = ofDefinition.get(form.id);
  if (
    last?.form === form &&
    last.catalogue === catalogue &&
    last.roles === roles &&
    last.standIn === standIn &&
    last.now === now
  )
    return last.told;
  const told = toldForm(visit, form, new Set());
  ofDefinition.set(form.id, { form, catalogue, roles, standIn, now, told });
  return told;
}
