import { Link } from 'react-router';
import { isForRowless } from '../../../core/access/open-roles';
import { Notice } from '../../ui/Notice';
import { RoleTicks } from '../access/RoleTicks';
import { useBench } from '../bench/bench-context';
import { DomainsField } from './DomainsField';

/** Domains whose every address comes in, without a row, and the roles that it gives. */
export function OpenToDomains() {
  const { draft, edit, to } = useBench();
  const { openTo } = draft;
  const marked = draft.roles.filter(isForRowless);
  const setDomains = (domains: string[]) =>
    void edit('Set the domains that it is open to', (next) => {
      if (domains.length === 0) delete next.openTo;
      else next.openTo = { domains, roles: next.openTo?.roles ?? [] };
    });
  return (
    <section aria-label="Open to domains" className="grid max-w-200 gap-3">
      <h2 className="text-base">Open to domains</h2>
      <p className="max-w-180 text-soft">
        Whoever proves an address of these domains comes in without a row of any roster. Of them nothing is known but
        the address, so rules that ask for more show them nothing; the check lists those that don&apos;t ask.
      </p>
      <DomainsField label="Whoever has an address of" domains={openTo?.domains} onChange={setDomains} />
      {openTo && marked.length > 0 && (
        <RoleTicks
          legend="comes in as"
          fits={isForRowless}
          ticked={openTo.roles}
          onChange={(tick) =>
            void edit('Set what an open domain gives', (next) => {
              if (next.openTo) next.openTo.roles = tick(next.openTo.roles);
            })
          }
        />
      )}
      {openTo && marked.length === 0 && (
        <Notice kind="warn">
          No role is meant for people without a row yet, so nobody comes in. Mark one{' '}
          <Link to={to('people', 'roles')}>under Roles</Link>.
        </Notice>
      )}
    </section>
  );
}
