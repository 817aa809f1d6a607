import { freeId } from '../../../core/definition/free-id';
import type { SignUp } from '../../../core/definition/sign-up';
import { findTable, isClosed } from '../../../core/table/catalogue';
import { counted } from '../../../core/text/counted';
import { problemText } from '../../client/http';
import { useSignUps } from '../../client/sign-ups';
import { Button } from '../../ui/Button';
import { Notice, Skeleton } from '../../ui/Notice';
import { Rule, RuleList, useOpenRule } from '../access/RuleList';
import { useBench } from '../bench/bench-context';
import { useNames, type Names } from '../bench/names';
import { StageHead } from '../bench/StageFrame';
import { InviteTyped } from './InviteTyped';
import { MailsSay } from './MailsSay';
import { OpenToDomains } from './OpenToDomains';
import { SignUpFields } from './SignUpFields';
import { SignUpLink } from './SignUpLink';
import { SignUpRequests } from './SignUpRequests';

/** Links by which people come in who stand on no roster yet. */
export function SignUps() {
  const { slug, state, draft, catalogue, edit } = useBench();
  const names = useNames();
  const { setOpen } = useOpenRule();
  const found = useSignUps(slug, state.revision);
  const signUps = draft.signUps ?? [];
  const [roster] = draft.rosters;
  const add = () => {
    const id = freeId('sign-up', signUps);
    const table = findTable(catalogue, roster!.table);
    const asks = (table?.columns ?? [])
      .filter(({ name, nullable, hasDefault, automatic }) => {
        const needed = !nullable && !hasDefault && !automatic && name !== roster!.email;
        return needed && !isClosed(table!, name);
      })
      .map(({ name }) => name);
    void edit('Add a sign-up', (next) => {
      const name = `Come in at ${next.portal.name}`;
      (next.signUps ??= []).push({ id, name, roster: roster!.table, asks, fills: [] });
    }).then((problem) => problem === null && setOpen(id));
  };
  const remove = (id: string) =>
    void edit('Remove a sign-up', (next) => {
      const rest = next.signUps!.filter((each) => each.id !== id);
      if (rest.length > 0) next.signUps = rest;
      else delete next.signUps;
    });
  return (
    <>
      <StageHead title="Sign-up" />
      <div className="grid content-start gap-4 p-4">
        <p className="max-w-180 text-soft">
          By a link that you give out, people come in who stand on no roster yet. Whoever opens it says who they are and
          proves their e-mail; then what they filled in becomes a row of the roster, with what the link says of it.
        </p>
        {found.isError && <Notice kind="fault">{problemText(found.error)}</Notice>}
        {!roster && <Notice kind="say">Make a roster first: whoever signs up becomes a row of it.</Notice>}
        {signUps.length > 0 && (
          <RuleList>
            {signUps.map((signUp) => (
              <Rule
                key={signUp.id}
                id={signUp.id}
                kind="Sign-up"
                sentence={
                  <>
                    <strong>{signUp.name}</strong>: {sentence(signUp, names)}
                  </>
                }
                loses="Its link leads nowhere then. Who came in by it stays."
                onRemove={() => remove(signUp.id)}
              >
                <SignUpFields signUp={signUp} />
                <SignUpLink of={found.data?.links.find(({ id }) => id === signUp.id)} />
                <InviteTyped signUp={signUp.id} />
              </Rule>
            ))}
          </RuleList>
        )}
        {roster && (
          <div>
            <Button onClick={add}>+ sign-up</Button>
          </div>
        )}
        <OpenToDomains />
        {(signUps.length > 0 || draft.openTo !== undefined) && (
          <MailsSay kinds={['sign-up invitation', 'sign-up', 'known already', 'approval']} />
        )}
        {found.isPending && <Skeleton lines={2} />}
        {found.data && <SignUpRequests requests={found.data.requests} />}
      </div>
    </>
  );
}

/** What a sign-up makes of people, and within which limits. */
function sentence({ roster, uses, ends, domains, approver }: SignUp, names: Names): string {
  const limits = [
    domains && `of ${domains.join(', ')} only`,
    uses !== undefined && `${counted(uses, 'person', 'people')} at most`,
    ends !== undefined && `until ${ends}`,
    approver !== undefined && `once ${names.role(approver)} agrees`,
  ].filter((each): each is string => typeof each === 'string');
  return [`a row of ${names.tableInText(roster)}`, ...limits].join(', ');
}
